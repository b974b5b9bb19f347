// Everything the page does to the store and the server. Edits go out one after the other, each on the revision before.
import { notifications } from "@mantine/notifications";

import { api, Refusal } from "../api/client";
import type { Edit, ProjectView } from "../api/types";
import type { Room } from "../shell/rooms";
import { allLayers, findLayer } from "./document";
import { evaluateSoon } from "./evaluate";
import { busy, comparing, useStore } from "./store";

const { getState, setState } = useStore;

export function say(error: unknown): void {
  const message = error instanceof Error ? error.message : String(error);
  notifications.show({ color: "oxide", message, autoClose: 8000, withBorder: true });
}

/** Takes a project's new state in, keeping what is selected where it still is. */
export function take(project: ProjectView): void {
  const { layer, step } = getState();
  const found = layer === null ? undefined : findLayer(project.document.layers, layer);
  const stepThere = found?.mask.steps.some((s) => s.id === step) ?? false;
  const before = getState().project;
  const another = before !== null && before.piece.hash !== project.piece.hash;
  setState({ project, layer: found ? layer : null, step: stepThere ? step : null });
  // Lengths that suit the piece come with the catalog.
  if (another) api.catalog(project.id).then((catalog) => setState({ catalog }), say);
  evaluateSoon();
}

export async function open(id: number): Promise<void> {
  const done = busy();
  setState({
    project: null,
    evaluation: null,
    layer: null,
    step: null,
    shown: "lit",
    probing: false,
    picking: null,
    spot: null,
    compare: null,
    variant: null,
    compared: null,
    error: null,
  });
  try {
    const [project, catalog, lights] = await Promise.all([
      api.project(id),
      api.catalog(id),
      getState().lights ?? api.lights(),
    ]);
    setState({ catalog, lights });
    const top = project.document.layers.at(-1);
    setState({ layer: top?.id ?? null });
    take(project);
  } catch (error) {
    setState({ error: error instanceof Error ? error.message : String(error) });
  } finally {
    done();
  }
}

let queue: Promise<unknown> = Promise.resolve();

/** Runs `work` on the project after everything that was asked before it. */
function inTurn(work: (project: ProjectView) => Promise<ProjectView>): Promise<ProjectView | null> {
  const done = busy();
  const turn = async () => {
    const project = getState().project;
    if (!project) return null;
    try {
      const next = await work(project);
      take(next);
      return next;
    } catch (error) {
      say(error);
      if (error instanceof Refusal && error.kind === "stale") take(await api.project(project.id));
      else evaluateSoon();
      return null;
    } finally {
      done();
    }
  };
  const mine = queue.then(turn, turn);
  queue = mine;
  return mine;
}

/** Keeps edits as one revision. */
export function commit(...edits: Edit[]): Promise<ProjectView | null> {
  tried = [];
  return inTurn((p) => api.edit(p.id, { revision: p.revision, edits }));
}

/** Edits of a drag that is not over: shown, not kept. */
let tried: Edit[] = [];

export function triedEdits(): Edit[] {
  return tried;
}

export function tryOut(...edits: Edit[]): void {
  tried = edits;
  evaluateSoon();
}

/** Goes to another state of the document: what was being tried on the one before is over. */
function goTo(work: (project: ProjectView) => Promise<ProjectView>): void {
  tried = [];
  void inTurn(work);
}

export function undo(): void {
  if (getState().project?.undo) goTo((p) => api.undo(p.id, p.revision));
}

export function redo(): void {
  if (getState().project?.redo) goTo((p) => api.redo(p.id, p.revision));
}

export function select(layer: string | null, step: string | null = null): void {
  // A colour that was waited for was another layer's.
  setState({ layer, step, picking: null });
  evaluateSoon();
}

/** Commits an edit that adds a layer, and selects what is new. */
export async function commitAndSelectNew(edit: Edit): Promise<void> {
  const before = new Set(allLayers(getState().project?.document.layers ?? []).map((l) => l.id));
  const after = await commit(edit);
  const added = allLayers(after?.document.layers ?? []).find((l) => !before.has(l.id));
  if (added) select(added.id);
}

export async function layRecipe(recipe: number): Promise<void> {
  const before = new Set((getState().project?.document.layers ?? []).map((l) => l.id));
  const after = await inTurn((p) => api.lay(p.id, p.revision, recipe));
  const added = after?.document.layers.find((l) => !before.has(l.id));
  if (added) {
    select(added.id);
    setState({ cabinetOpen: false });
  }
}

/** Runs work that brings a file in, on the project's present revision. */
export function bring(work: (project: ProjectView) => Promise<ProjectView>): Promise<ProjectView | null> {
  return inTurn(work);
}

export function measure(kinds: string[]): void {
  void inTurn((p) => api.measure(p.id, kinds));
}

export function cancelWork(): void {
  const project = getState().project;
  if (project) api.cancel(project.id).catch(say);
}

/** Goes into a room; what only that room shows is asked for. */
export function enter(room: Room): void {
  setState({ room, picking: null });
  if (getState().project) evaluateSoon();
}

export function show(shown: ReturnType<typeof getState>["shown"]): void {
  setState({ shown });
  evaluateSoon();
}

/** Takes the probe up or puts it down. */
export function turnProbe(): void {
  setState((s) => (s.probing ? { probing: false, spot: null } : { probing: true }));
}

/** Wipes the present state against a snapshot, or no longer. */
export function compareWith(snapshot: number | null): void {
  setState({ compare: snapshot, variant: null, compared: null });
  if (snapshot !== null) evaluateSoon();
}

/** Wipes the present state against what the dials stand at in a variant. */
export function compareWithVariant(variant: string): void {
  setState({ compare: null, variant, compared: null });
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
