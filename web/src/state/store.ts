// What the page knows. One store; `actions.ts` is the one place that changes it.
import { create } from "zustand";

import type {
  Edit,
  Entry,
  EvaluationView,
  JobKind,
  LightsView,
  ProjectView,
  Step,
  Surround,
  Value,
} from "../api/types";
import type { Room } from "../shell/rooms";

/** What the view shows: `lit`, a channel, the `parts` or `shells` in colour, the selected layer's `mask`, what the selected `step` does by itself, or `reading:<kind>`. */
export type Shown =
  | "lit"
  | "parts"
  | "shells"
  | "base_color"
  | "roughness"
  | "metallic"
  | "normal"
  | "mask"
  | "step"
  | `channel:${string}`
  | `reading:${string}`;

/** Where the view's camera is. */
export interface Camera {
  eye: [number, number, number];
  target: [number, number, number];
  fov: number;
  /** Breadth over height. */
  aspect: number;
}

/** Something that takes a while on the server. */
export interface Job {
  kind: JobKind;
  label: string;
  share: number;
  /** Seconds left, as far as that can be told. */
  left: number | null;
  /** Samples a pixel of what it has of a picture so far. */
  samples?: number;
}

/** A state that one edit leads to, and what it is called. */
export interface Against {
  name: string;
  edit: Extract<Edit, { edit: "take_variant" | "follow_recipe" }>;
}

export interface State {
  catalog: Entry[];
  project: ProjectView | null;
  evaluation: EvaluationView | null;
  room: Room;
  layer: string | null;
  step: string | null;
  /** The part that is picked in the Surface room, by its number. */
  part: number | null;
  shown: Shown;
  /** Whether a click on the piece looks into it. */
  probing: boolean;
  /** The step that the brush draws in, while it is taken up, and what the brush was set to. */
  drawing: { layer: string; step: string } | null;
  brush: Record<string, Value>;
  /** The strokes of the selected step that are picked. */
  strokes: string[];
  /** Who waits for a colour to be taken from the piece. */
  picking: { label: string; take: (hex: string) => void } | null;
  /** Where it was looked into: a place of the textures, and whether that lies in the left half of the view. */
  spot: { u: number; v: number; left: boolean } | null;
  /** The snapshot that the present state is wiped against, its pixels, and where across the view the one ends and the other begins, 0…1. */
  compare: number | null;
  /** What it is wiped against, if no snapshot is: a variant, or a newer version of a recipe. */
  against: Against | null;
  compared: EvaluationView | null;
  wipe: number;
  /** Whether the two stand side by side instead. */
  beside: boolean;
  /** A picture that stands beside the piece, or over it. */
  reference: Reference | null;
  /** What light there is. */
  lights: LightsView | null;
  light: string;
  turn: number;
  brightness: number;
  /** Strength of the light from behind, 0 is none. */
  rim: number;
  /** Stops of exposure, and what surrounds the piece. */
  exposure: number;
  surround: Surround;
  /** Whether the piece stands on something. */
  ground: boolean;
  /** Whether its relief moves the surface, rather than only its light. */
  moved: boolean;
  /** Whether a ball in the corner shows what the light is. */
  ball: boolean;
  /** Whether the panels are put away, so that the piece fills the window. */
  away: boolean;
  camera: Camera | null;
  /** What is under way on the server for this project, by its number. */
  jobs: Record<number, Job>;
  /** Changes that the server has not acknowledged. */
  unsaved: number;
  /** Requests under way and pixels not drawn yet; 0 means settled. */
  pending: number;
  error: string | null;
  cabinetOpen: boolean;
  /** Whether it shows what lies in it on this piece. */
  cabinetOnPiece: boolean;
  finderOpen: boolean;
  keysOpen: boolean;
  /** Groups whose layers are folded away. */
  folded: string[];
  /** Headings of settings that are unfolded. */
  unfolded: string[];
  /** Steps that were copied from a mask line. */
  copied: Step[];
  /** A layer that was copied, as text: here, in another project or in another window. */
  copiedLayer: string | null;
}

/** A picture that the piece is compared with. */
export interface Reference {
  /** What lies on the board, by its id. */
  item: string;
  /** Where its upper left corner stands in the view, and how wide it is, as shares of the view's width. */
  at: [number, number];
  width: number;
  /** Stops of exposure. */
  exposure: number;
  /** How much of it is seen, 0…1. */
  seen: number;
  /** Whether the piece is turned through it. */
  through: boolean;
}

/** Where a copied layer waits for other projects and windows. */
export const COPIED = "dustcoat.copied";

/** What belongs to the project that is open, before any is. */
export const NOTHING_OPEN = {
  project: null,
  evaluation: null,
  layer: null,
  step: null,
  part: null,
  shown: "lit",
  probing: false,
  drawing: null,
  strokes: [],
  picking: null,
  spot: null,
  compare: null,
  against: null,
  compared: null,
  reference: null,
  folded: [],
  jobs: {},
  error: null,
} satisfies Partial<State>;

export const useStore = create<State>(() => ({
  ...NOTHING_OPEN,
  catalog: [],
  brush: {},
  room: "build",
  wipe: 0.5,
  beside: false,
  lights: null,
  light: "quay",
  turn: 0,
  brightness: 1,
  rim: 0,
  exposure: 0,
  surround: "grey",
  ground: false,
  moved: false,
  ball: false,
  away: false,
  camera: null,
  unsaved: 0,
  pending: 0,
  cabinetOpen: false,
  cabinetOnPiece: false,
  finderOpen: false,
  keysOpen: false,
  unfolded: [],
  copied: [],
  copiedLayer: localStorage.getItem(COPIED),
}));

window.addEventListener("storage", (e) => {
  if (e.key === COPIED) useStore.setState({ copiedLayer: e.newValue });
});

/** The name of what the present state is wiped against, or none. */
export function comparing({ project, compare, against }: State): string | null {
  const snapshot = project?.snapshots.find((s) => s.id === compare)?.name;
  return snapshot ?? (project && against && leadsThere(project, against.edit) ? against.name : null);
}

/** Whether what it is wiped against is still there. */
function leadsThere(project: ProjectView, edit: Against["edit"]): boolean {
  if (edit.edit === "take_variant") return project.document.variants?.some((v) => v.name === edit.name) ?? false;
  return project.newer[edit.layer]?.recipe.version === edit.recipe.version;
}

/** Marks something as under way until the returned function is called once. */
export function busy(): () => void {
  useStore.setState((s) => ({ pending: s.pending + 1 }));
  let done = false;
  return () => {
    if (done) return;
    done = true;
    useStore.setState((s) => ({ pending: s.pending - 1 }));
  };
}

/** Draws cheaply for machines without a graphics processor: no mipmaps, no environment, no antialiasing. */
export const plain = new URLSearchParams(location.search).get("quality") === "plain";
