// Everything the page does to the store and the server. Edits go out one after the other, each on the revision before.
import { notifications } from "@mantine/notifications";

import { api, Refusal } from "../api/client";
import { queries } from "../api/queries";
import type { Edit, Entry, Laying, Noted, ProjectView } from "../api/types";
import type { Room } from "../shell/rooms";
import { allLayers, findLayer } from "./document";
import { evaluateSoon } from "./evaluate";
import { type Against, busy, comparing, NOTHING_OPEN, useStore } from "./store";

const { getState, setState } = useStore;

export function say(error: unknown): void {
  const message = error instanceof Error ? error.message : String(error);
  notifications.show({ color: "oxide", message, autoClose: 8000, withBorder: true });
}

/** Takes a newer state of the open project in, keeping what is selected where it still is. Of another project, or an older state, nothing is taken; whether it was. */
function take(project: ProjectView): boolean {
  const { project: before, layer, step } = getState();
  if (before?.id !== project.id || before.stamp > project.stamp) return false;
  const found = layer === null ? undefined : findLayer(project.document.layers, layer);
  const stepThere = found?.mask.steps.some((s) => s.id === step) ?? false;
  setState({ project, layer: found ? layer : null, step: stepThere ? step : null });
  // Lengths that suit the piece come with the catalog.
  if (before.piece.hash !== project.piece.hash) {
    const still = (catalog: Entry[]) => getState().project?.id === project.id && setState({ catalog });
    api.catalog(project.id).then(still, say);
  }
  evaluateSoon();
  return true;
}

/** The project that was asked for last: what comes late for another one is not shown. */
let wanted = 0;
/** Whether something was heard of it while its answer was on the way, which may be older than that. */
let heardMeanwhile = false;

export async function open(id: number): Promise<void> {
  const done = busy();
  wanted = id;
  heardMeanwhile = false;
  tried = [];
  setState(NOTHING_OPEN);
  try {
    // What is still on its way to the server is waited for.
    await queue;
    const [project, catalog, lights] = await Promise.all([
      api.project(id),
      api.catalog(id),
      getState().lights ?? api.lights(),
    ]);
    if (wanted !== id) return;
    revisions.set(id, { id, revision: project.revision });
    const top = project.document.layers.findLast((l) => l.shown) ?? project.document.layers.at(-1);
    setState({ project, catalog, lights, layer: top?.id ?? null });
    evaluateSoon();
    if (heardMeanwhile) catchUp();
  } catch (error) {
    if (wanted === id) setState({ error: error instanceof Error ? error.message : String(error) });
  } finally {
    done();
  }
}

/** Goes out of the project: nothing that comes late is shown. */
export function leave(): void {
  wanted = 0;
  tried = [];
}

/** What a change is made on. */
interface On {
  id: number;
  revision: number;
}

let queue: Promise<unknown> = Promise.resolve();
/** The newest state known of each project: what waits in the queue is made on that, whichever project is open by then. */
const revisions = new Map<number, On>();

/** Makes a change to the project that is open now, after everything that was asked before. Its new state, if it is still open by then. */
function inTurn(work: (on: On) => Promise<ProjectView>): Promise<ProjectView | null> {
  const project = getState().project;
  if (!project) return Promise.resolve(null);
  const { id } = project;
  const done = busy();
  setState((s) => ({ unsaved: s.unsaved + 1 }));
  const turn = async () => {
    let next: ProjectView | null = null;
    try {
      next = await work(revisions.get(id) ?? project);
      revisions.set(id, { id, revision: next.revision });
    } catch (error) {
      say(error);
      if (error instanceof Refusal && error.kind === "stale") await refresh(id);
    }
    // Before it is taken in: nothing is evaluated while a change is on its way.
    setState((s) => ({ unsaved: s.unsaved - 1 }));
    if (next === null || !take(next)) evaluateSoon();
    done();
    return getState().project?.id === id ? next : null;
  };
  const mine = queue.then(turn, turn);
  queue = mine;
  return mine;
}

/** Takes in what the server has of a project, if that is news, or in any case. */
async function refresh(id: number, anyway = false): Promise<void> {
  try {
    const project = await api.project(id);
    revisions.set(id, { id, revision: project.revision });
    if (anyway || project.stamp !== getState().project?.stamp) take(project);
  } catch {
    // The server is away, or the project is gone: the next edit says so.
  }
}

/** Another window may have changed the project: looked up once what this one has asked for is done, unless that was it. `stamp` is what it is at least. */
export function catchUp(stamp: number | null = null): void {
  const id = getState().project?.id;
  if (id === undefined) {
    heardMeanwhile = true;
    return;
  }
  const done = busy();
  const turn = async () => {
    const now = getState().project;
    if (now?.id === id && (stamp === null || now.stamp < stamp)) await refresh(id);
    done();
  };
  queue = queue.then(turn, turn);
}

/** The cabinet has changed: what the project says of newer versions is looked up, though the project itself is as it was. */
export function cabinetChanged(): void {
  for (const asked of ["cabinet", "found"]) void queries.invalidateQueries({ queryKey: [asked] });
  const id = getState().project?.id;
  if (id === undefined) return;
  const turn = () => refresh(id, true);
  queue = queue.then(turn, turn);
}

/** Keeps edits as one revision. */
export function commit(...edits: Edit[]): Promise<ProjectView | null> {
  tried = [];
  return inTurn((p) => api.edit(p.id, { revision: p.revision, edits }));
}

/** Edits of a drag that is not over, or of something that is looked at: shown, not kept. */
let tried: Edit[] = [];
/** Whether they are only looked at: then nobody minds that they go. */
let glancing = false;

export function triedEdits(): Edit[] {
  return tried;
}

export function tryOut(...edits: Edit[]): void {
  tried = edits;
  glancing = false;
  evaluateSoon();
}

/** Shows what edits would come to, until one looks away. */
export function glanceAt(edit: Edit): void {
  tryOut(edit);
  glancing = true;
}

/** Shows the piece as it is again, if it isn't what is being dragged that shows. */
export function lookAway(): void {
  if (glancing && tried.length > 0) tryOut();
}

/** Writes notes on something; without words there is none. */
export const writeOn = (on: Noted) => (text: string) => void commit({ edit: "set_note", on, text });

/** Whether something was changed that the server has not acknowledged. */
export const somethingUnsaved = (): boolean => getState().unsaved > 0 || (tried.length > 0 && !glancing);

/** Goes to another state of the document: what was being tried on the one before is over. */
function goTo(work: (on: On) => Promise<ProjectView>): void {
  tried = [];
  void inTurn(work);
}

export function undo(): void {
  if (getState().project?.undo) goTo((p) => api.undo(p.id, p.revision));
}

export function redo(): void {
  if (getState().project?.redo) goTo((p) => api.redo(p.id, p.revision));
}

/** Goes to a state that undo or redo would come to step by step. */
export function goToState(to: number): void {
  goTo((p) => api.goTo(p.id, p.revision, to));
}

export function select(layer: string | null, step: string | null = null): void {
  // A colour that was waited for was another layer's.
  // The brush draws in the step that is selected, and in no other.
  setState((s) => {
    const same = s.layer === layer && s.step === step;
    return { layer, step, picking: null, drawing: same ? s.drawing : null, strokes: same ? s.strokes : [] };
  });
  evaluateSoon();
}

/** Commits an edit that adds a layer, and selects what is new. */
export const commitAndSelectNew = (edit: Edit): Promise<string | null> => selectNew(() => commit(edit));

/** Selects the layer that some work adds. */
export async function selectNew(work: () => Promise<ProjectView | null>): Promise<string | null> {
  const before = new Set(allLayers(getState().project?.document.layers ?? []).map((l) => l.id));
  const after = await work();
  const added = allLayers(after?.document.layers ?? []).find((l) => !before.has(l.id));
  if (added) select(added.id);
  return added?.id ?? null;
}

/** Lays a recipe, over everything where no place is given; whether it was laid. */
export async function layRecipe(laying: Laying, place: { inside?: string; index?: number } = {}): Promise<boolean> {
  const added = await selectNew(() => inTurn((p) => api.lay(p.id, { ...laying, ...place, revision: p.revision })));
  void queries.invalidateQueries({ queryKey: ["cabinet"] });
  return added !== null;
}

/** Runs work that makes a new state of the project in another way than by edits, on its present revision. */
export function bring(work: (on: On) => Promise<ProjectView>): Promise<ProjectView | null> {
  return inTurn(work);
}

/** Goes into a room; what only that room shows is asked for. */
export function enter(room: Room): void {
  setState({ room, picking: null, drawing: null });
  if (getState().project) evaluateSoon();
}

export function show(shown: ReturnType<typeof getState>["shown"]): void {
  setState({ shown });
  evaluateSoon();
}

/** Takes the probe up or puts it down. */
export function turnProbe(): void {
  setState((s) => (s.probing ? { probing: false, spot: null } : { probing: true, drawing: null }));
}

/** Wipes the present state against a snapshot, or no longer. */
export function compareWith(snapshot: number | null): void {
  setState({ compare: snapshot, against: null, compared: null });
  if (snapshot !== null) evaluateSoon();
}

/** Wipes the present state against one that an edit leads to, which is not made. */
export function compareWithEdit(against: Against): void {
  setState({ compare: null, against, compared: null });
  evaluateSoon();
}

/** Takes the wipe up, against the snapshot that was kept last, or puts it down. */
export function turnWipe(): void {
  const { project } = getState();
  compareWith(comparing(getState()) === null ? (project?.snapshots.at(-1)?.id ?? null) : null);
}

export function keepSnapshot(name: string): void {
  void inTurn((p) => api.keepSnapshot(p.id, { name }));
}

export function removeSnapshot(id: number): void {
  if (getState().compare === id) compareWith(null);
  void inTurn((p) => api.removeSnapshot(p.id, id));
}

export function restoreSnapshot(id: number): void {
  void inTurn((p) => api.restoreSnapshot(p.id, id));
}

export function goBackTo(id: number): void {
  goTo((p) => api.goBack(p.id, id, p.revision));
}
