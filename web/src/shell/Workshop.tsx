// A project open: the path across the top, the view that stays, and the room's panels around it.
import { lazy, Suspense, useEffect } from "react";
import { Link, useLocation } from "wouter";

import { api } from "../api/client";
import { listen } from "../api/events";
import { Cabinet } from "../cabinet/Cabinet";
import { BuildBottom, BuildLeft, BuildRight } from "../rooms/build/Build";
import { Dials } from "../rooms/dials/Dials";
import { Handoff } from "../rooms/handoff/Handoff";
import { SurfaceLeft, SurfaceRight } from "../rooms/surface/Surface";
import { enter, open, take } from "../state/actions";
import { measured } from "../state/evaluate";
import { useStore } from "../state/store";
import { type Room, ROOMS } from "./rooms";
import { useShortcuts } from "./shortcuts";
import { TopBar } from "./TopBar";
import { useSettled } from "./settled";

const View = lazy(() => import("../view/View"));

export function Workshop({ id, room }: { id: number; room: string }) {
  const project = useStore((s) => s.project);
  const error = useStore((s) => s.error);
  const [, go] = useLocation();
  const here: Room = ROOMS.find((r) => r === room) ?? "build";
  useSettled();
  useShortcuts(id, go);
  useEffect(() => {
    void open(id);
  }, [id]);
  useEffect(() => enter(here), [here]);
  useEffect(() => listen((event) => hear(event, id)), [id]);
  if (error !== null) {
    return (
      <main className="plain-page">
        <h1>This project can’t be opened</h1>
        <p>{error}</p>
        <Link href="/">Back to the front door</Link>
      </main>
    );
  }
  return (
    <div className={`workshop room-${here}`}>
      <TopBar room={here} />
      {project && <Panels room={here} />}
      <main className="view-cell">
        <Suspense fallback={<div className="view-loading">Preparing the view…</div>}>
          <View />
        </Suspense>
      </main>
      <Cabinet />
    </div>
  );
}

function Panels({ room }: { room: Room }) {
  switch (room) {
    case "build":
      return (
        <>
          <aside className="panel left">
            <BuildLeft />
          </aside>
          <aside className="panel right">
            <BuildRight />
          </aside>
          <section className="panel bottom">
            <BuildBottom />
          </section>
        </>
      );
    case "surface":
      return (
        <>
          <aside className="panel left">
            <SurfaceLeft />
          </aside>
          <aside className="panel right">
            <SurfaceRight />
          </aside>
        </>
      );
    case "dials":
      return (
        <aside className="panel right">
          <Dials />
        </aside>
      );
    case "handoff":
      return (
        <aside className="panel right">
          <Handoff />
        </aside>
      );
  }
}

function hear(event: Parameters<Parameters<typeof listen>[0]>[0], id: number): void {
  if (event.project !== id) return;
  switch (event.event) {
    case "progress":
      useStore.setState({ work: { label: event.label, share: event.share, left: event.left } });
      break;
    case "idle":
      useStore.setState({ work: null });
      measured();
      break;
    case "changed":
      void otherWindow(id, event.revision);
      break;
  }
}

/** An edit from another window: taken in, unless it is our own coming back. */
async function otherWindow(id: number, revision: number): Promise<void> {
  const { project, pending } = useStore.getState();
  if (!project || project.revision >= revision || pending > 0) return;
  try {
    take(await api.project(id));
  } catch {
    // The next edit will say so.
  }
}
