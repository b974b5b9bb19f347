// Keeping the pixels up to date: at most one evaluation under way; whatever changes meanwhile is asked for once, after it.
// While a control moves, textures of a size that answers in time are asked for, and nothing else; once it rests, those of the draft, and then all that is read off beside the piece.
import { api, Refusal } from "../api/client";
import type { EvaluateRequest } from "../api/types";
import { say, triedEdits } from "./actions";
import { answered, letGo, sizeInTime } from "./pace";
import { shown, type Stage } from "./shown";
import { busy, comparing, plain, type State, useStore } from "./store";

const { getState, setState } = useStore;

/** This page, as the server knows it. */
export const page = crypto.randomUUID();
let running = false;
/** How many evaluations this page has asked for. */
let turns = 0;
let dirty = false;

/** Stops what is under way when something newer is wanted before it. */
let underWay: { stage: Stage; stop: AbortController } | null = null;
/** Tells whoever waits for a moment's rest that something moves. */
let moves: (() => void) | null = null;

/** How long a control that is held still has to rest before it is worked out sharply, in ms. */
const REST = 120;
/** For which piece and draft the next movement is prepared. */
let ahead = "";

/** How often measuring has come to an end: it may do so before the answer that says that it goes on. */
let ends = 0;
/** Whether the last answer failed to come: then it is asked for again as soon as the server is heard. */
let failed = false;
/** Whether a job has ended since the cards of the measurements were brought up to date. */
let heard = false;

/** Ways of looking that show what the coats lay down. */
const COATS: State["shown"][] = ["lit", "base_color", "roughness", "metallic", "normal"];

const draftOf = (s: State): number => s.project?.document.draft_size ?? 0;

function request(s: State, stage: Stage): EvaluateRequest {
  const draft = draftOf(s);
  const whole = stage === "whole" || stage === "smooth";
  // Only the Build room has a mask line to fill.
  const building = s.room === "build";
  // With no step selected there is only the mask to see.
  const mask = s.shown === "mask" || s.shown === "step";
  const reading = s.shown.startsWith("reading:") ? s.shown.slice("reading:".length) : undefined;
  return {
    page,
    turn: ++turns,
    edits: triedEdits(),
    provisional: true,
    parts: s.shown === "parts",
    shells: s.shown === "shells",
    moved: s.moved && s.shown === "lit",
    ...(whole ? {} : { size: stage === "sharp" ? draft : sizeInTime(draft) }),
    smooth: stage === "smooth",
    ...(s.layer !== null && ((building && whole) || mask) ? { layer: s.layer } : {}),
    ...(s.step !== null && ((building && whole) || mask) ? { step: s.step } : {}),
    alone: s.shown === "step" && s.step !== null,
    mask,
    tiles: building,
    ...(reading !== undefined ? { reading } : {}),
    ...(s.shown.startsWith("channel:") ? { channel: s.shown.slice("channel:".length) } : {}),
  };
}

/** Whether nothing is under way, and nothing to come. */
export const resting = (): boolean => !running && !dirty && triedEdits().length === 0 && getState().unsaved === 0;

/** Asks for pixels of the present state, soon. */
export function evaluateSoon(): void {
  dirty = true;
  moves?.();
  // What only makes a state sharper that is over.
  if (underWay && underWay.stage !== "moving") underWay.stop.abort();
  if (!running) void run();
}

/** Waits for a moment's rest, unless something moves before. */
function rest(): Promise<void> {
  return new Promise((done) => {
    const timer = window.setTimeout(done, REST);
    moves = () => {
      window.clearTimeout(timer);
      done();
    };
  });
}

/** The pixels of what the present state is wiped against. */
async function evaluateSnapshot(id: number, s: State): Promise<void> {
  if (comparing(s) === null) return;
  const against =
    s.compare === null ? { edits: s.against ? [s.against.edit] : [] } : { edits: [], snapshot: s.compare };
  const { turn, parts, shells, moved, reading, channel } = request(s, "whole");
  const wanted = {
    turn,
    parts,
    shells,
    moved,
    ...(reading === undefined ? {} : { reading }),
    ...(channel === undefined ? {} : { channel }),
  };
  try {
    const bare = { provisional: true, alone: false, mask: false, tiles: false, smooth: false };
    const compared = await api.draw(id, { ...bare, ...wanted, page: `${page}/snapshot`, ...against });
    if (getState().project?.id === id && comparing(getState()) === comparing(s)) setState({ compared });
  } catch (error) {
    setState({ compare: null, against: null, compared: null });
    // Whoever stopped it wants it no more.
    if (!(error instanceof Refusal && error.kind === "cancelled")) throw error;
  }
}

async function run(): Promise<void> {
  running = true;
  const done = busy();
  let stage: Stage | null = null;
  while (dirty || stage !== null) {
    if (dirty) {
      dirty = false;
      if (triedEdits().length === 0) letGo();
      stage = triedEdits().length > 0 ? "moving" : "sharp";
    }
    const s = getState();
    // What is being kept is asked for once it is: until then the server knows only what was before.
    const keeping = s.unsaved > 0 && triedEdits().length === 0;
    if (!s.project || stage === null || keeping) break;
    stage = await evaluate(s, s.project.id, stage);
  }
  running = false;
  done();
  await refreshMeasurements();
}

/** Evaluates; what is to be asked for next, if nothing changes meanwhile. */
async function evaluate(s: State, id: number, stage: Stage): Promise<Stage | null> {
  const before = ends;
  const stop = new AbortController();
  underWay = { stage, stop };
  const began = performance.now();
  try {
    const e = await api.draw(id, request(s, stage), stop.signal);
    failed = false;
    performance.clearMarks("received");
    performance.mark("received", { detail: stage });
    if (stage === "ahead") return null;
    if (getState().project?.id === id) setState({ evaluation: shown(e, stage, `${id} ${s.layer ?? ""}`) });
    if (stage === "moving") {
      answered(performance.now() - began, draftOf(s));
      await rest();
      return "sharp";
    }
    if (stage === "sharp") return "whole";
    if (stage === "whole") {
      await evaluateSnapshot(id, s);
      if (e.improving && ends !== before) dirty = true;
      // What is coarse will be asked for again, what shows no coats has no edges, and what is wiped against has none that are smooth.
      if (!plain && !e.provisional && comparing(s) === null && COATS.includes(s.shown)) return "smooth";
    }
    const next = `${s.project?.piece.hash} ${s.project?.document.draft_size}`;
    if (ahead === next || e.provisional) return null;
    ahead = next;
    return "ahead";
  } catch (error) {
    if (stop.signal.aborted) return null;
    // Overtaken though nothing newer was asked for here, as when the page stands open twice: what is seen must still become true.
    const overtaken = error instanceof Refusal && error.kind === "cancelled";
    if (overtaken) dirty = true;
    failed = !overtaken;
    if (failed && getState().project?.id === id) say(error);
    return null;
  } finally {
    underWay = null;
    moves = null;
  }
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

/** Measuring is over, or the server is heard again: what was evaluated on coarse measurements, or not at all, is asked for again. */
export function measured(): void {
  ends += 1;
  heard = true;
  const { evaluation, compared } = getState();
  if (failed || evaluation?.improving || compared?.improving) evaluateSoon();
  else void refreshMeasurements();
}
