// Putting steps into a mask line.
import type { Edit, Entry, Layer, Step } from "../../api/types";
import { commit, select } from "../../state/actions";
import { findLayer } from "../../state/document";
import { useStore } from "../../state/store";

/** Puts steps in and selects the last of them. */
export async function addSteps(layer: Layer, index: number, steps: Step[]): Promise<void> {
  const after = await commit(stepsEdit(layer, index, steps));
  const now = after && findLayer(after.document.layers, layer.id);
  const last = now?.mask.steps[index + steps.length - 1];
  if (last) select(layer.id, last.id);
}

export const stepsEdit = (layer: Layer, index: number, steps: Step[]): Edit => ({
  edit: "add_steps",
  layer: layer.id,
  index,
  steps,
});

/** Puts a step in beside the one that it is a copy of. */
export function duplicateStep(layer: Layer, index: number, step: Step): void {
  void commit({ edit: "add_step", layer: layer.id, index, step: { ...step, id: "" } }).then((after) => {
    const added = after && findLayer(after.document.layers, layer.id)?.mask.steps[index];
    if (added) select(layer.id, added.id);
  });
}

/** What taking something out of the finder does. */
export const candidateEdit = (layer: Layer, index: number, entry: Entry): Edit => stepsEdit(layer, index, entry.steps);

/** Where the finder puts a step: after the selected one, or at the end. */
export function insertionPlace(layer: Layer): number {
  const at = layer.mask.steps.findIndex((s) => s.id === useStore.getState().step);
  return at < 0 ? layer.mask.steps.length : at + 1;
}
