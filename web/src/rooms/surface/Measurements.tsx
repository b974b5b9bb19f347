// What is measured of the piece, as cards: the picture on the piece, whether it is up to date, its settings. And the readings that cost nothing.
import { Button, SegmentedControl, Tooltip } from "@mantine/core";
import { Fragment, useState } from "react";

import type { Entry, MeasurementState, ProjectView } from "../../api/types";
import { Setting } from "../../controls/Setting";
import { show } from "../../state/actions";
import { effective } from "../../state/document";
import { measure } from "../../state/jobs";
import { type Shown, useStore } from "../../state/store";
import { Weather } from "./Weather";

export function Measurements({ project }: { project: ProjectView }) {
  const catalog = useStore((s) => s.catalog);
  const waiting = project.measurements.filter((m) => m.state !== "fresh");
  const estimate = waiting.reduce((sum, m) => sum + (m.estimate ?? NaN), 0);
  const readings = catalog.filter((e) => e.family === "reading");
  return (
    <>
      <div className="panel-head">
        <span>Measured at {project.document.draft_size}</span>
        <Button disabled={waiting.length === 0} onClick={() => measure(waiting.map((m) => m.kind))}>
          {waiting.length === 0
            ? "All measured"
            : Number.isNaN(estimate)
              ? "Measure all"
              : `Measure all, about ${seconds(estimate)}`}
        </Button>
      </div>
      {project.measurements.map((state, i) => {
        const entry = catalog.find((e) => e.family === "measurement" && e.kind === state.kind);
        // The weather stands before the first that follows it.
        const first = state.weather && !project.measurements.slice(0, i).some((m) => m.weather);
        return (
          entry && (
            <Fragment key={state.kind}>
              {first && <Weather project={project} />}
              <Card
                entry={entry}
                state={state}
                project={project}
                readings={readings.filter((r) => r.measured === state.kind)}
              />
            </Fragment>
          )
        );
      })}
      <div className="panel-head" style={{ borderTop: "1px solid var(--hairline)" }}>
        <span>Always at hand</span>
      </div>
      <div className="at-hand">
        {readings
          .filter((r) => r.measured === "")
          .map((r) => (
            <Small key={r.kind} entry={r} project={project} />
          ))}
      </div>
      <p className="hint" style={{ paddingTop: 8 }}>
        These follow from where a texel lies; what a mask takes of them is set in its step.
      </p>
    </>
  );
}

const seconds = (s: number) => (s < 1 ? "1 s" : s < 90 ? `${Math.round(s)} s` : `${Math.round(s / 60)} min`);

/** The address of a reading's picture; it changes with everything that changes the picture. */
function pictureOf(project: ProjectView, reading: string, state?: MeasurementState): string {
  const { piece, document } = project;
  const settings = state
    ? JSON.stringify([document.readings[state.kind], state.weather && document.readings.weather])
    : "";
  const version = [
    piece.hash,
    document.draft_size,
    settings,
    state?.seconds ?? "",
    JSON.stringify(document.intake.pictures),
    project.stand_ins.join(),
  ].join("-");
  return `/api/projects/${project.id}/reading/${encodeURIComponent(reading)}/picture?v=${encodeURIComponent(version)}`;
}

interface CardProps {
  entry: Entry;
  state: MeasurementState;
  project: ProjectView;
  readings: Entry[];
}

function Card({ entry, state, project, readings }: CardProps) {
  const [chosen, setChosen] = useState("");
  const [kind, setKind] = useState(readings[0]?.kind ?? "");
  // In which of several ways it is read: the first is the usual one.
  const ways = readings.find((r) => r.kind === kind)?.params.find((p) => p.type === "choice");
  const way = ways?.choices.some(([w]) => w === chosen) ? chosen : (ways?.choices[0]?.[0] ?? "");
  const name = way === "" ? kind : `${kind}:${way}`;
  const key: Shown = `reading:${name}`;
  const on = useStore((s) => s.shown === key);
  const shown = useStore((s) => s.shown);
  const settings = project.document.readings[state.kind] ?? {};
  const standIn = project.stand_ins.includes(kind);
  const there = standIn || state.state === "fresh";
  const look = (nextKind: string, nextWay: string) => {
    setKind(nextKind);
    setChosen(nextWay);
    const offered = readings.find((r) => r.kind === nextKind)?.params.find((p) => p.type === "choice")?.choices;
    const next = offered?.some(([w]) => w === nextWay) ? nextWay : offered?.[0]?.[0];
    // What is looked at follows the choice.
    if (shown === key) show(`reading:${next === undefined ? nextKind : `${nextKind}:${next}`}`);
  };
  return (
    <article className={on ? "reading shown" : "reading"} data-reading={state.kind}>
      <Tooltip label={on ? "Show the piece lit again" : "Show it on the piece"}>
        <button
          className="reading-picture"
          aria-pressed={on}
          aria-label={`Show ${entry.label}`}
          disabled={!there}
          onClick={() => show(on ? "lit" : key)}
        >
          {there ? (
            <img src={pictureOf(project, name, state)} alt="" />
          ) : state.state === "stale" ? (
            "stale"
          ) : (
            "not measured"
          )}
        </button>
      </Tooltip>
      <div className="reading-text">
        <h2>{entry.label}</h2>
        <span className="soft" style={{ fontSize: 12 }}>
          {entry.help}
        </span>
        {standIn ? <span className="state-fresh">a picture stands in for it</span> : <Freshness state={state} />}
      </div>
      <div className="reading-settings">
        {readings.length > 1 && (
          <SegmentedControl
            fullWidth
            size="xs"
            aria-label={`What is shown of ${entry.label}`}
            data={readings.map((r) => ({ value: r.kind, label: r.label }))}
            value={kind}
            onChange={(v) => look(v, way)}
          />
        )}
        {ways && (
          <SegmentedControl
            fullWidth
            size="xs"
            aria-label={`${ways.label} shown of ${entry.label}`}
            data={ways.choices.map(([value, label]) => ({ value, label }))}
            value={way}
            onChange={(v) => look(kind, v)}
          />
        )}
        {effective(state.params, (spec) => settings[spec.key] ?? spec.default).map((spec) => (
          <Setting
            key={spec.key}
            spec={spec}
            param={settings[spec.key]}
            target={{ reading: state.kind, key: spec.key }}
            drivable={false}
          />
        ))}
        {!there && (
          <Button variant="default" onClick={() => void measure([state.kind])}>
            {state.estimate === null ? "Measure" : `Measure, about ${seconds(state.estimate)}`}
          </Button>
        )}
      </div>
    </article>
  );
}

function Freshness({ state }: { state: MeasurementState }) {
  switch (state.state) {
    case "fresh":
      return <span className="state-fresh">fresh, measured in {(state.seconds ?? 0).toFixed(1)} s</span>;
    case "stale":
      return <span className="state-missing">stale. {state.why}</span>;
    case "missing":
      return (
        <span className="state-missing">{state.needed ? "to be measured, it is needed" : "not measured yet"}</span>
      );
  }
}

function Small({ entry, project }: { entry: Entry; project: ProjectView }) {
  const key: Shown = `reading:${entry.kind}`;
  const on = useStore((s) => s.shown === key);
  return (
    <Tooltip label={entry.help} multiline maw={240}>
      <button
        className={on ? "small-reading shown" : "small-reading"}
        data-reading={entry.kind}
        aria-pressed={on}
        aria-label={`Show ${entry.label}`}
        onClick={() => show(on ? "lit" : key)}
      >
        <img src={pictureOf(project, entry.kind)} alt="" />
        <span>{entry.label}</span>
      </button>
    </Tooltip>
  );
}
