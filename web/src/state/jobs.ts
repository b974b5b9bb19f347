// What takes a while on the server: each job with its own progress and Stop. No edit waits for one.
import { api } from "../api/client";
import type { Event } from "../api/types";
import { cabinetChanged, catchUp, say } from "./actions";
import { measured } from "./evaluate";
import { type Job, useStore } from "./store";

const { getState, setState } = useStore;

/** Jobs that ended: the end of one may be heard before the answer that tells of its beginning. */
const ended = new Set<number>();

function put(number: number, job: Job | null): void {
  const jobs = Object.fromEntries(Object.entries(getState().jobs).filter(([n]) => Number(n) !== number));
  setState({ jobs: job === null ? jobs : { ...jobs, [number]: job } });
}

/** Measures; it goes on in the background, whatever is edited meanwhile. */
export async function measure(kinds: string[]): Promise<void> {
  const project = getState().project;
  if (!project) return;
  try {
    const { job } = await api.measure(project.id, kinds);
    const known = ended.has(job) || getState().jobs[job] !== undefined;
    if (!known && getState().project?.id === project.id)
      put(job, { kind: "measuring", label: "Measuring", share: 0, left: null });
  } catch (error) {
    say(error);
  }
}

export function stop(job: number): void {
  const project = getState().project;
  if (project) api.stop(project.id, job).catch(say);
}

/** Hears what happens on the server. */
export function hear(event: Event, id: number): void {
  if (event.event === "missed") return missed();
  if (event.event === "cabinet") return cabinetChanged();
  if (event.project !== id) return;
  switch (event.event) {
    case "progress":
      if (!ended.has(event.job))
        put(event.job, {
          ...getState().jobs[event.job],
          kind: event.kind,
          label: event.label,
          share: event.share,
          left: event.left,
        });
      break;
    case "shown": {
      const job = getState().jobs[event.job];
      if (job) put(event.job, { ...job, samples: event.samples });
      break;
    }
    case "over":
      ended.add(event.job);
      put(event.job, null);
      if (event.error !== null) say(new Error(event.error));
      if (event.kind === "measuring") measured();
      break;
    case "changed":
      catchUp(event.stamp);
      break;
  }
}

/** What was begun before this page listened. */
export async function underWay(): Promise<void> {
  const id = getState().project?.id;
  if (id === undefined) return;
  const jobs = await api.jobs(id).catch(() => []);
  for (const { job, kind, label, share } of jobs) {
    if (getState().project?.id === id && !ended.has(job)) put(job, { kind, label, share, left: null });
  }
}

/** Something was not heard, or the server was away: all that is shown is asked for anew. */
export function missed(): void {
  setState({ jobs: {} });
  // After a restart jobs are counted from one again.
  ended.clear();
  catchUp();
  measured();
  void underWay();
}
