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

/** Puts several steps in and selects the last of them. In a line that has steps already the first of them multiplies. */
export async function addSteps(layer: Layer, index: number, steps: Step[]): Promise<void> {
  const after = await commit(stepsEdit(layer, index, steps));
  const now = after && findLayer(after.document.layers, layer.id);
  const last = now?.mask.steps[index + steps.length - 1];
  if (last) select(layer.id, last.id);
}

function stepsEdit(layer: Layer, index: number, steps: Step[]): Edit {
  const joined = steps.map((s, i): Step => (i === 0 && index > 0 && s.join === "replace" ? { ...s, join: "multiply" } : s));
  return { edit: "add_steps", layer: layer.id, index, steps: joined };
}

/** What taking something out of the finder does. */
export const candidateEdit = (layer: Layer, index: number, entry: Entry): Edit =>
  entry.family === "starter" ? stepsEdit(layer, index, entry.steps) : addEdit(layer, index, freshStep(entry, index));

export const takeCandidate = (layer: Layer, index: number, entry: Entry): Promise<void> =>
  entry.family === "starter" ? addSteps(layer, index, entry.steps) : addStep(layer, index, freshStep(entry, index));

/** Where the finder puts a step: after the selected one, or at the end. */
export function insertionPlace(layer: Layer): number {
  const at = layer.mask.steps.findIndex((s) => s.id === useStore.getState().step);
  return at < 0 ? layer.mask.steps.length : at + 1;
}
