// Keeping the pixels up to date: at most one evaluation under way; whatever changes meanwhile is asked for once, after it.
import { api, Refusal } from "../api/client";
import type { EvaluateRequest } from "../api/types";
import { say, triedEdits } from "./actions";
import { busy, type State, useStore } from "./store";

const { getState, setState } = useStore;

const page = crypto.randomUUID();
let running = false;
let dirty = false;

function request(s: State): EvaluateRequest {
  // Only the Build room has a mask line to fill.
  const building = s.room === "build";
  const mask = s.shown === "mask";
  const reading = s.shown.startsWith("reading:") ? s.shown.slice("reading:".length) : undefined;
  return {
    page,
    edits: triedEdits(),
    ...(s.layer !== null && (building || mask) ? { layer: s.layer } : {}),
    mask,
    tiles: building,
    ...(reading !== undefined ? { reading } : {}),
    height: s.shown === "height",
  };
}

/** Asks for pixels of the present state, soon. */
export function evaluateSoon(): void {
  dirty = true;
  if (!running) void run();
}

async function run(): Promise<void> {
  running = true;
  const done = busy();
  while (dirty) {
    dirty = false;
    const s = getState();
    if (!s.project?.piece.has_uvs) break;
    const id = s.project.id;
    try {
      const evaluation = await api.evaluate(id, request(s));
      if (getState().project?.id === id) setState({ evaluation });
    } catch (error) {
      const overtaken = error instanceof Refusal && error.kind === "cancelled";
      if (!overtaken && getState().project?.id === id) say(error);
    }
  }
  running = false;
  done();
  await refreshReadings();
}

/** Evaluating measures what was missing: the cards of the Surface room must hear of it. */
async function refreshReadings(): Promise<void> {
  const project = getState().project;
  if (!project?.readings.some((r) => r.needed && !r.fresh)) return;
  try {
    const { readings } = await api.project(project.id);
    const now = getState().project;
    if (now?.id === project.id) setState({ project: { ...now, readings } });
  } catch {
    // The next edit or room brings the state anyway.
  }
}
