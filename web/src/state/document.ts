// Reading documents: pure helpers without a rule of the job.
import type {
  ColorsDrive,
  Dial,
  DialDrive,
  DialKind,
  Drive,
  Edit,
  Entry,
  Layer,
  MaskDrive,
  Param,
  ParamSpec,
  RampDrive,
  Standing,
  Step,
  Target,
  Value,
} from "../api/types";

/** Whether anything was drawn or laid by hand in some layers themselves, whatever recipes in use keep. */
export const isDrawn = (layers: Layer[]): boolean =>
  allLayers(layers).some((l) => l.mask.steps.some((s) => (s.strokes ?? []).length > 0 || s.spot !== undefined));

/** All layers, from the bottom up, holders before what they hold. */
export function allLayers(layers: Layer[]): Layer[] {
  return layers.flatMap((l) => [l, ...(l.kind === "group" ? allLayers(l.layers) : [])]);
}

export function findLayer(layers: Layer[], id: string): Layer | undefined {
  return allLayers(layers).find((l) => l.id === id);
}

/** The row that holds a layer: the holder's id (none for the document), the row, the place in it. */
export function rowOf(
  layers: Layer[],
  id: string,
  inside: string | null = null,
): { inside: string | null; row: Layer[]; index: number } | null {
  const index = layers.findIndex((l) => l.id === id);
  if (index >= 0) return { inside, row: layers, index };
  for (const l of layers) {
    const found = l.kind === "group" ? rowOf(l.layers, id, l.id) : null;
    if (found) return found;
  }
  return null;
}

/** A setting that no catalog describes, to be told what it is. */
export const plainSpec = (
  of: Pick<ParamSpec, "key" | "label" | "type" | "min" | "max" | "default"> & Partial<ParamSpec>,
): ParamSpec => ({
  unit: "",
  log: false,
  choices: [],
  help: "",
  group: "",
  when: ["", []],
  marks: false,
  varies: false,
  ramps: false,
  ...of,
});

export function isDriven(param: Param | undefined): param is Exclude<Param, Value> {
  return typeof param === "object";
}

/** What sets it in the artist's place. */
export const byDrive = (param: Param | undefined): Drive | null =>
  isDriven(param) && ("dial" in param || "formula" in param) ? param : null;

/** The dial that sets it by itself. */
export const byDial = (param: Param | undefined): DialDrive | null =>
  isDriven(param) && "dial" in param ? param : null;

export const byMask = (param: Param | undefined): MaskDrive | null =>
  isDriven(param) && "mask" in param ? param : null;

export const byColors = (param: Param | undefined): ColorsDrive | null =>
  isDriven(param) && "colors" in param ? param : null;

export const byRamp = (param: Param | undefined): RampDrive | null =>
  isDriven(param) && "along" in param ? param : null;

const sameTarget = (a: Target, b: Target) =>
  a.key === b.key &&
  a.inner === b.inner &&
  a.layer === b.layer &&
  a.step === b.step &&
  a.channel === b.channel &&
  a.dial === b.dial &&
  a.reading === b.reading;

/** How a setting is told of that something drives. */
export const standingOf = (target: Target, standings: Standing[]): Standing | undefined =>
  standings.find((s) => sameTarget(s.target, target));

/** What a setting stands at: its own value, or where the core says that its dial has driven it. */
export function standing(spec: ParamSpec, param: Param | undefined, target: Target, standings: Standing[]): Value {
  if (!isDriven(param)) return param ?? spec.default;
  return standingOf(target, standings)?.value ?? spec.default;
}

/** What a dial takes; of one that doesn't say so, what its value is. */
export const kindOf = (dial: Dial): DialKind =>
  dial.kind ?? (typeof dial.value === "number" ? "number" : typeof dial.value === "boolean" ? "switch" : "color");

/** A dial described as a setting, so that the same controls serve. */
export const specOf = (dial: Dial): ParamSpec =>
  plainSpec({
    key: dial.id,
    label: dial.label,
    unit: dial.unit,
    min: dial.min,
    max: dial.max,
    default: dial.default,
    log: dial.log ?? false,
    help: dial.help ?? "",
    choices: (dial.options ?? []).map((o) => [o.key, o.label]),
    type: kindOf(dial) === "seed" || (dial.step ?? 0) === 1 ? "integer" : (kindOf(dial) as ParamSpec["type"]),
  });

/** Whether a dial is shown as the others stand. */
export const isShown = (dial: Dial, stands: (id: string) => Value | undefined): boolean =>
  !dial.when || stands(dial.when.dial) === dial.when.is;

export function setParam(target: Target, value: Param | null): Edit {
  return { edit: "set_param", target, value };
}

/** Families whose kinds may be called like those of steps. */
const NO_STEPS = ["function", "join", "channel", "change", "map", "finish", "adjustment", "ladder"];

export function entryOf(catalog: Entry[], kind: string): Entry | undefined {
  return catalog.find((e) => e.kind === kind && !NO_STEPS.includes(e.family));
}

export function joinOf(catalog: Entry[], join: string): Entry | undefined {
  return catalog.find((e) => e.family === "join" && e.kind === join);
}

/** The mask line read aloud. */
export function sentence(steps: Step[], catalog: Entry[]): string {
  const on = steps.filter((s) => s.on);
  if (on.length === 0) return "everywhere";
  return on
    .map((s, i) => {
      const entry = entryOf(catalog, s.kind);
      const label = (entry?.label ?? s.kind).toLowerCase();
      if (entry?.family === "shaper") return label;
      const join = joinOf(catalog, s.join);
      if (i === 0 && join?.opens) return label;
      return `${i === 0 ? "everywhere, " : ""}${join?.word ?? s.join} ${label}`;
    })
    .join(", ");
}

/** A number as it is shown: three significant places, no noise. */
export function shownNumber(value: number): string {
  if (Number.isInteger(value)) return String(value);
  return String(Number(value.toPrecision(3)));
}

export const percent = (share: number) => `${share > 0 && share < 0.005 ? "<1" : Math.round(share * 100)} %`;

/** Names under which the layers publish their masks. */
export const publishedIn = (layers: Layer[]): string[] =>
  allLayers(layers).flatMap((l) => (l.publish === undefined ? [] : [l.publish]));

type StepPlace = { layer: string; step: string };

/** What a step's setting stands at. */
export const stepValue = (spec: ParamSpec, step: Step, place: StepPlace, standings: Standing[]): Value =>
  standing(spec, step.settings[spec.key], { ...place, key: spec.key }, standings);

/** The settings that have an effect as the others stand. */
export const effective = (params: ParamSpec[], stands: (spec: ParamSpec) => unknown): ParamSpec[] =>
  params.filter(({ when: [key, values] }) => {
    const other = params.find((p) => p.key === key);
    return !other || values.includes(String(stands(other)));
  });
