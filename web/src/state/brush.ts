// The brush: how it stands, and taking it up.
import { api } from "../api/client";
import type { Layer, ParamSpec, Step, Stroke, Value } from "../api/types";
import { commit, say, select } from "./actions";
import { effective, entryOf, findLayer, stepValue } from "./document";
import { busy, type State, useStore } from "./store";

const { getState, setState } = useStore;

/** What a brush is set to, and how the hand is led. */
export const brushSpecs = (s: State, kind: "stroke" | "hand"): ParamSpec[] =>
  s.catalog.find((e) => e.family === "brush" && e.kind === kind)?.params ?? NO_SPECS;

const NO_SPECS: ParamSpec[] = [];

export const brushValue = (s: State, spec: ParamSpec): Value => s.brush[spec.key] ?? spec.default;

export const setBrush = (key: string, value: Value): void => setState((s) => ({ brush: { ...s.brush, [key]: value } }));

const set = (s: State, key: string): Value | undefined => {
  const spec = brushSpecs(s, "stroke").find((p) => p.key === key);
  return spec && brushValue(s, spec);
};

/** What of a stroke counts in a step: all of it, or for what a pin is laid along how it is led. */
export const forStep = (specs: ParamSpec[], styled: boolean): ParamSpec[] =>
  styled ? specs : specs.filter((p) => p.key === "led" || p.key === "closed");

/** What is asked of the brush as it stands. */
export const askedOfBrush = (s: State): ParamSpec[] =>
  effective(forStep(brushSpecs(s, "stroke"), laidAlong(s) === null), (spec) => brushValue(s, spec));

/** What a press of the brush fills, in words, if it fills anything: a pin’s picture is laid along a way. */
export function fills(s: State): string | null {
  const covers = brushSpecs(s, "stroke").find((p) => p.key === "covers");
  if (!covers || laidAlong(s) !== null || brushValue(s, covers) === covers.default) return null;
  return covers.choices.find(([key]) => key === brushValue(s, covers))?.[1] ?? null;
}

/** Whether the brush is taken up to set the points of a path. */
export const pathOf = (s: State): boolean => s.drawing !== null && fills(s) === null && isPath(set(s, "led"));

/** Whether a stroke is led through points, rather than by the hand. */
export const isPath = (led: Value | undefined): boolean => led !== undefined && led !== "hand";

/** The path that is picked, if one is, and no other stroke. */
export function pickedPath(s: State): { place: { layer: string; step: string }; stroke: Stroke } | null {
  const place = drawnStep(s);
  if (!s.project || !place || s.room !== "build" || s.strokes.length !== 1) return null;
  const step = findLayer(s.project.document.layers, place.layer)?.mask.steps.find((one) => one.id === place.step);
  const stroke = step?.strokes?.find((one) => one.id === s.strokes[0]);
  return stroke && isPath(stroke.led) && (stroke.covers ?? "way") === "way" ? { place, stroke } : null;
}

/** How the hand is led: how far the brush lags behind, 0…1, and across which axis it is mirrored. */
export function hand(s: State): { steady: number; mirror: string } {
  const [steady, mirror] = ["steady", "mirror"].map((key) => {
    const spec = brushSpecs(s, "hand").find((p) => p.key === key);
    return spec && brushValue(s, spec);
  });
  return { steady: Number(steady ?? 0), mirror: String(mirror ?? "none") };
}

/** Half the width, in mm, of what is laid along the strokes that are being drawn, if that is a pin's picture: how the brush stands says nothing then. */
export function laidAlong(s: State): number | null {
  const { project, drawing, catalog } = s;
  if (!project || !drawing) return null;
  const step = findLayer(project.document.layers, drawing.layer)?.mask.steps.find((one) => one.id === drawing.step);
  const spec = entryOf(catalog, "pin")?.params.find((p) => p.key === "size");
  return step?.kind === "pin" && spec ? Number(stepValue(spec, step, drawing, project.standings)) / 2 : null;
}

/** A stroke as the brush stands, along some points. */
export function strokeAlong(s: State, points: number[][], turned: boolean): Stroke {
  const set = Object.fromEntries(brushSpecs(s, "stroke").map((spec) => [spec.key, brushValue(s, spec)]));
  const stroke = { ...set, id: "", points } as unknown as Stroke;
  // What a pin is laid along takes nothing away.
  const take = laidAlong(s) === null && (turned ? !stroke.take : (stroke.take ?? false));
  return { ...stroke, take };
}

/** Turns a number of the brush by a ratio, or by a step where it is a share; kept within its range. */
export function turnBrush(key: "radius" | "hardness", up: boolean): void {
  const s = getState();
  const spec = brushSpecs(s, "stroke").find((p) => p.key === key);
  if (!spec || s.drawing === null) return;
  const now = Number(brushValue(s, spec));
  const next = spec.log ? now * (up ? 1.15 : 1 / 1.15) : now + (up ? 0.1 : -0.1);
  setBrush(key, Number(Math.min(spec.max, Math.max(spec.min, next)).toPrecision(3)));
}

/** Whether strokes are drawn in a step: for themselves, or for a pin to be laid along. */
export const takesStrokes = ({ kind, settings }: Step): boolean =>
  kind === "strokes" || (kind === "pin" && settings["laid"] === "along");

/** The step that strokes are drawn in and that is selected, if one is. */
export function drawnStep({ project, layer, step }: State): { layer: string; step: string } | null {
  const found = project && layer !== null ? findLayer(project.document.layers, layer) : undefined;
  const selected = found?.mask.steps.find((s) => s.id === step);
  return layer !== null && selected && takesStrokes(selected) ? { layer, step: selected.id } : null;
}

/** Picks the topmost stroke at a place of the piece; the next one below it if that is picked already. */
export async function pickAt(at: [number, number, number], normal: [number, number, number]): Promise<void> {
  const s = getState();
  const place = drawnStep(s);
  if (!s.project || !place || s.probing || s.picking) return;
  const done = busy();
  try {
    const there = await api.strokesAt(s.project.id, { ...place, at, normal });
    const before = s.strokes.length === 1 ? there.indexOf(s.strokes[0] ?? "") : -1;
    const picked = there[(before + 1) % Math.max(there.length, 1)];
    if (getState().step === place.step) setState({ strokes: picked === undefined ? [] : [picked] });
  } catch (error) {
    say(error);
  } finally {
    done();
  }
}

/** Puts the brush down. */
export const putDown = (): void => setState({ drawing: null });

/** Takes the brush up for a layer: for the step of strokes that is selected, or the next one after it, or one that is made there. Puts it down if it is taken up already. */
export async function takeUp(layer: Layer | undefined): Promise<void> {
  const s = getState();
  if (s.drawing !== null) return putDown();
  if (!layer) return say("Select a layer first: strokes are drawn in its mask line.");
  const steps = layer.mask.steps;
  const at = steps.findIndex((step) => step.id === s.step);
  const found = steps.slice(Math.max(at, 0)).find(takesStrokes);
  if (found) return draw(layer.id, found.id);
  const index = at < 0 ? steps.length : at + 1;
  const [step] = entryOf(s.catalog, "strokes")?.steps ?? [];
  if (!step) return;
  const after = await commit({ edit: "add_step", layer: layer.id, index, step });
  const made = after && findLayer(after.document.layers, layer.id)?.mask.steps[index];
  if (made) draw(layer.id, made.id);
}

function draw(layer: string, step: string): void {
  select(layer, step);
  setState({ drawing: { layer, step }, probing: false });
}
