// A project open: the path across the top, the view that stays, and the room's panels around it.
import { lazy, Suspense, useEffect } from "react";
import { Link, useLocation } from "wouter";

import { listen } from "../api/events";
import { Cabinet } from "../cabinet/Cabinet";
import { BuildBottom, BuildLeft, BuildRight } from "../rooms/build/Build";
import { Dials } from "../rooms/dials/Dials";
import { Handoff } from "../rooms/handoff/Handoff";
import { Board } from "../rooms/study/Board";
import { Plan } from "../rooms/study/Plan";
import { SurfaceLeft, SurfaceRight } from "../rooms/surface/Surface";
import { enter, leave, open } from "../state/actions";
import { page } from "../state/evaluate";
import { hear, missed, underWay } from "../state/jobs";
import { useStore } from "../state/store";
import { asStyle, Borders, usePanels } from "./Borders";
import { type Room, ROOMS } from "./rooms";
import { useShortcuts } from "./shortcuts";
import { TopBar } from "./TopBar";
import { Settled } from "./settled";

const View = lazy(() => import("../view/View"));

export function Workshop({ id, room }: { id: number; room: string }) {
  const opened = useStore((s) => s.project?.id);
  const error = useStore((s) => s.error);
  const [, go] = useLocation();
  const away = useStore((s) => s.away);
  const here: Room = ROOMS.find((r) => r === room) ?? "build";
  const [panels, setSize] = usePanels(here);
  useShortcuts(id, go);
  useEffect(() => {
    void open(id);
  }, [id]);
  useEffect(() => enter(here), [here]);
  useEffect(() => listen(page, (event) => hear(event, id), missed), [id]);
  useEffect(() => leave, [id]);
  useEffect(() => void underWay(), [opened]);
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
    <div className={`workshop room-${here}${away ? " away" : ""}`} style={asStyle(panels)}>
      <Settled />
      <TopBar room={here} />
      {opened !== undefined && !away && <Panels room={here} />}
      {opened !== undefined && <Borders panels={panels} set={setSize} />}
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
    case "study":
      return (
        <>
          <section className="board-cell">
            <Board />
          </section>
          <aside className="panel right">
            <Plan />
          </aside>
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
