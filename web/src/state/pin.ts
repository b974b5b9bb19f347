// The pin that is selected: where it lies, how large and how turned it is, and the edits that change this.
import type { Edit, Spot, Step } from "../api/types";
import { entryOf, findLayer, isDriven, setParam, stepValue } from "./document";
import type { State } from "./store";

/** How a pin lies. */
export interface Lying {
  /** None while it isn't laid yet. */
  spot: Spot | null;
  /** Its width in mm. */
  size: number;
  /** Against the clock, in degrees. */
  turn: number;
}

export interface Pinned {
  place: { layer: string; step: string };
  step: Step;
  lying: Lying;
  /** Height over width. */
  aspect: number;
  /** Least and greatest width, in mm. */
  sizes: [number, number];
}

/** Whether a pin is laid at a spot, rather than along what is drawn. */
export const hasSpot = (step: Step): boolean => step.kind === "pin" && step.settings["laid"] !== "along";

/** The pin that is selected in Build, if one is that is laid at a spot. */
export function pinned(s: State): Pinned | null {
  const { project, layer: id, step: stepId, catalog } = s;
  if (!project || id === null || s.room !== "build") return null;
  const step = findLayer(project.document.layers, id)?.mask.steps.find((one) => one.id === stepId);
  if (!step || !hasSpot(step)) return null;
  const place = { layer: id, step: step.id };
  const specOf = (key: string) => entryOf(catalog, "pin")?.params.find((p) => p.key === key);
  const value = (key: string) => {
    const spec = specOf(key);
    return spec ? stepValue(spec, step, place, project.standings) : 0;
  };
  const picture = project.document.intake.pictures.find((p) => p.file === value("picture"));
  const [width, height] = picture?.size ?? [1, 1];
  const lying = { spot: step.spot ?? null, size: Number(value("size")), turn: Number(value("turn")) };
  const { min, max } = specOf("size") ?? { min: 0.1, max: 1000 };
  return { place, step, lying, aspect: height / Math.max(width, 1), sizes: [min, max] };
}

/** What makes a pin lie otherwise. What something drives stays driven. */
export function layEdits({ place, step, lying }: Pinned, now: Lying): Edit[] {
  const edits: Edit[] = [];
  if (now.spot !== lying.spot) edits.push({ edit: "lay_pin", ...place, spot: now.spot });
  for (const key of ["size", "turn"] as const)
    if (now[key] !== lying[key] && !isDriven(step.settings[key])) edits.push(setParam({ ...place, key }, now[key]));
  return edits;
}

/** Why a pin isn't sized or turned by hand, if it isn't. */
export const whyNot = ({ step }: Pinned, key: "size" | "turn"): string | null =>
  isDriven(step.settings[key])
    ? `Its ${key === "size" ? "width" : "turn"} is driven: turn what drives it, or release it in the settings.`
    : null;
