// Laying and moving layers. Adding always lays over; it never replaces.
import { notifications } from "@mantine/notifications";

import { api } from "../../api/client";
import type { Dial, Layer } from "../../api/types";
import { commit, commitAndSelectNew, say } from "../../state/actions";
import { rowOf } from "../../state/document";
import { busy, COPIED, useStore } from "../../state/store";

/** A plain coat or an empty group, to begin with. */
function plain(kind: "coat" | "group"): Layer[] {
  const { layer } = useStore.getState().catalog.find((e) => e.family === "plain" && e.kind === kind) ?? {};
  return layer ? [layer] : [];
}

/** Lays a plain coat or an empty group over a layer, or over everything. */
export async function layPlainOver(kind: "coat" | "group", below: string | null): Promise<void> {
  for (const layer of plain(kind)) await layOver(layer, below);
}

/** Lays a plain coat as the topmost of a group. */
export async function layPlainInside(group: Extract<Layer, { kind: "group" }>): Promise<void> {
  for (const layer of plain("coat")) await layInside(layer, group);
}

/** Lays a layer right over another one, or over everything. A group that brings layers along is folded at first: it is one thing. */
export async function layOver(layer: Layer, below: string | null, dials: Dial[] = []): Promise<void> {
  const id = await commitAndSelectNew({ edit: "add_layer", ...over(below), layer, dials });
  if (id === null || layer.kind !== "group" || layer.layers.length === 0) return;
  useStore.setState((s) => ({ folded: [...s.folded, id] }));
}

function over(layer: string | null): { inside: string | null; index: number } {
  const layers = useStore.getState().project?.document.layers ?? [];
  const row = layer === null ? null : rowOf(layers, layer);
  return { inside: row?.inside ?? null, index: row ? row.index + 1 : layers.length };
}

/** The place right over a layer, or over everything. */
export function placeOver(layer: string | null): { inside?: string; index: number } {
  const { inside, index } = over(layer);
  return { index, ...(inside === null ? {} : { inside }) };
}

export async function copyLayer(layer: Layer): Promise<void> {
  const id = useStore.getState().project?.id;
  if (id === undefined) return;
  const done = busy();
  try {
    const copiedLayer = await api.copyLayer(id, layer.id);
    localStorage.setItem(COPIED, copiedLayer);
    useStore.setState({ copiedLayer });
    notifications.show({ message: `${layer.name} is copied. Paste it here or in another project.`, withBorder: true });
  } catch (error) {
    say(error);
  } finally {
    done();
  }
}

export function pasteLayer(below: string | null): void {
  const copied = useStore.getState().copiedLayer;
  if (copied === null) say("Nothing is copied yet. Copy a layer first, in its menu in the section.");
  else void commitAndSelectNew({ edit: "paste_layer", ...over(below), copied });
}

/** Lays a layer as the topmost of a group. */
async function layInside(layer: Layer, group: Extract<Layer, { kind: "group" }>): Promise<void> {
  await commitAndSelectNew({ edit: "add_layer", inside: group.id, index: group.layers.length, layer });
}

/** Moves a layer to where another one stands; it comes to lie on the side from which it came. */
export function moveTo(layers: Layer[], moved: string, target: string, downwards: boolean): void {
  const to = rowOf(layers, target);
  const from = rowOf(layers, moved);
  if (!to || !from || moved === target) return;
  const without = to.index - (from.inside === to.inside && from.index < to.index ? 1 : 0);
  void commit({ edit: "move_layer", layer: moved, inside: to.inside, index: downwards ? without : without + 1 });
}
