// Putting steps into a mask line.
import type { Edit, Entry, Join, Layer, Step } from "../../api/types";
import { commit, select } from "../../state/actions";
import { findLayer } from "../../state/document";
import { useStore } from "../../state/store";

/** A step of a kind as it first comes in: the first of a line stands for itself, later ones multiply. */
export function freshStep(entry: Entry, place: number): Step {
  const join: Join = place === 0 ? "replace" : "multiply";
  return { id: "", on: true, join, amount: 1, kind: entry.kind, settings: {} };
}

export const addEdit = (layer: Layer, index: number, step: Step): Edit => ({ edit: "add_step", layer: layer.id, index, step });

/** Adds a step and selects it. */
export async function addStep(layer: Layer, index: number, step: Step): Promise<void> {
  const after = await commit(addEdit(layer, index, step));
  const now = after && findLayer(after.document.layers, layer.id);
  const added = now?.mask.steps[index];
  if (added) select(layer.id, added.id);
}

/** Where the finder puts a step: after the selected one, or at the end. */
export function insertionPlace(layer: Layer): number {
  const at = layer.mask.steps.findIndex((s) => s.id === useStore.getState().step);
  return at < 0 ? layer.mask.steps.length : at + 1;
}
