// What may drive a setting along a mask.
import type { Entry, Target } from "../api/types";

const FAMILIES = [
  ["own", "The layer"],
  ["reading", "Readings"],
  ["pattern", "Patterns"],
  ["source", "Others"],
] as const;

/** What can drive a setting, for a list to choose from; only a finish can read the layer's own mask. */
export const sourcesIn = (catalog: Entry[], target: Target) =>
  FAMILIES.filter(([family]) => family !== "own" || target.channel !== undefined).map(([family, group]) => ({
    group,
    items: catalog.filter((e) => e.family === family).map((e) => ({ value: e.kind, label: e.label })),
  }));
