// Keeping the pixels up to date: at most one evaluation under way; whatever changes meanwhile is asked for once, after it.
import { api, Refusal } from "../api/client";
import type { EvaluateRequest } from "../api/types";
import { say, triedEdits } from "./actions";
import { busy, comparing, type State, useStore } from "./store";

const { getState, setState } = useStore;

/** This page, as the server knows it. */
export const page = crypto.randomUUID();
let running = false;
let dirty = false;
/** How often measuring has come to an end: it may do so before the answer that says that it goes on. */
let ends = 0;
/** Whether a job has ended since the cards of the measurements were brought up to date. */
let heard = false;

function request(s: State): EvaluateRequest {
  // Only the Build room has a mask line to fill.
  const building = s.room === "build";
  // With no step selected there is only the mask to see.
  const mask = s.shown === "mask" || s.shown === "step";
  const reading = s.shown.startsWith("reading:") ? s.shown.slice("reading:".length) : undefined;
  return {
    page,
    edits: triedEdits(),
    provisional: true,
    parts: s.shown === "parts",
    shells: s.shown === "shells",
    moved: s.moved && s.shown === "lit",
    ...(s.layer !== null && (building || mask) ? { layer: s.layer } : {}),
    ...(s.step !== null && (building || mask) ? { step: s.step } : {}),
    alone: s.shown === "step" && s.step !== null,
    mask,
    tiles: building,
    ...(reading !== undefined ? { reading } : {}),
    ...(s.shown.startsWith("channel:") ? { channel: s.shown.slice("channel:".length) } : {}),
  };
}

/** Asks for pixels of the present state, soon. */
export function evaluateSoon(): void {
  dirty = true;
  if (!running) void run();
}

/** The pixels of the snapshot that the present state is wiped against. */
async function evaluateSnapshot(id: number, s: State): Promise<void> {
  if (comparing(s) === null) return;
  const against = s.compare === null ? { variant: s.variant ?? "" } : { snapshot: s.compare };
  const { parts, shells, moved, reading, channel } = request(s);
  const wanted = {
    parts,
    shells,
    moved,
    ...(reading === undefined ? {} : { reading }),
    ...(channel === undefined ? {} : { channel }),
  };
  try {
    const plain = { provisional: true, alone: false, mask: false, tiles: false };
    const compared = await api.evaluate(id, { ...plain, ...wanted, page: `${page}/snapshot`, edits: [], ...against });
    if (getState().project?.id === id && comparing(getState()) === comparing(s)) setState({ compared });
  } catch (error) {
    if (!(error instanceof Refusal && error.kind === "cancelled"))
      setState({ compare: null, variant: null, compared: null });
    throw error;
  }
}

async function run(): Promise<void> {
  running = true;
  const done = busy();
  while (dirty) {
    dirty = false;
    const s = getState();
    if (!s.project) break;
    const id = s.project.id;
    const before = ends;
    try {
      const evaluation = await api.evaluate(id, request(s));
      if (getState().project?.id === id) setState({ evaluation });
      await evaluateSnapshot(id, s);
      if (evaluation.improving && ends !== before) dirty = true;
    } catch (error) {
      const overtaken = error instanceof Refusal && error.kind === "cancelled";
      if (!overtaken && getState().project?.id === id) say(error);
    }
  }
  running = false;
  done();
  await refreshMeasurements();
}

/** Evaluating measures what was missing: the cards of the Surface room must hear of it. */
async function refreshMeasurements(): Promise<void> {
  const project = getState().project;
  // What was asked for is measured as well, and that is what is needed, or what is looked at.
  const { catalog, shown } = getState();
  const kind = shown.startsWith("reading:") ? shown.slice("reading:".length).split(":")[0] : undefined;
  const looked = catalog.find((e) => e.family === "reading" && e.kind === kind)?.measured;
  const open = project?.measurements.some((m) => m.state !== "fresh" && (m.needed || m.kind === looked));
  if (!project || !(open || heard)) return;
  heard = false;
  try {
    const { measurements } = await api.project(project.id);
    const now = getState().project;
    if (now?.id === project.id) setState({ project: { ...now, measurements } });
  } catch {
    // The next edit or room brings the state anyway.
  }
}

/** Measuring is over: what was evaluated on coarse measurements is asked for again. */
export function measured(): void {
  ends += 1;
  heard = true;
  if (getState().evaluation?.improving) evaluateSoon();
  else void refreshMeasurements();
}
