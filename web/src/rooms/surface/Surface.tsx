// The Surface room: the parts of the piece, what is wrong with its mesh, and its readings as cards.
import { Button, Tooltip } from "@mantine/core";

import type { Entry, ParamSpec, ProjectView, ReadingState } from "../../api/types";
import { Setting } from "../../controls/Setting";
import { measure, show } from "../../state/actions";
import { type Shown, useStore } from "../../state/store";
import { partColor } from "../../view/partColor";

export function SurfaceLeft() {
  const project = useStore((s) => s.project);
  if (!project) return null;
  return (
    <>
      <Parts project={project} />
      <Findings project={project} />
    </>
  );
}

function Parts({ project }: { project: ProjectView }) {
  const part = useStore((s) => s.part);
  const shown = useStore((s) => s.shown);
  const { piece } = project;
  const pick = (next: number | null) => {
    useStore.setState({ part: next });
    if (shown !== "parts") show("parts");
  };
  const on = shown === "parts";
  return (
    <>
      <div className="panel-head">
        <span>Parts</span>
        <Button variant={on ? "filled" : "default"} aria-pressed={on} onClick={() => show(on ? "lit" : "parts")}>Show in colour</Button>
      </div>
      <div role="listbox" aria-label="Parts">
        {piece.parts.map((p, i) => (
          <button key={p.name} role="option" aria-selected={part === i} className={part === i ? "part-row selected" : "part-row"} onClick={() => pick(part === i ? null : i)}>
            <span className="swatch" style={{ background: partColor(i) }} />
            <span>{p.name}</span>
            <span className="soft mono">{area(p.area)}</span>
          </button>
        ))}
      </div>
      <p className="hint" style={{ paddingTop: 8 }}>Click a part here, or on the piece while it is shown in colour.</p>
      <div className="block">
        <Fact name="File" value={piece.file} />
        <Fact name="Size" value={`${piece.size.map((v) => Math.round(v)).join(" × ")} mm`} />
        <Fact name="Triangles" value={piece.triangles.toLocaleString("en")} />
        <Fact name="Shells" value={piece.shells.toLocaleString("en")} />
      </div>
    </>
  );
}

const area = (mm2: number) => (mm2 >= 1000 ? `${(mm2 / 100).toFixed(0)} cm²` : `${mm2.toFixed(0)} mm²`);

function Fact({ name, value }: { name: string; value: string }) {
  return <div className="row" style={{ minHeight: 18 }}><span className="soft">{name}</span><span>{value}</span></div>;
}

function Findings({ project }: { project: ProjectView }) {
  const { findings } = project.piece;
  return (
    <section style={{ borderTop: "1px solid var(--hairline)" }}>
      <div className="panel-head"><span>What was found in the mesh</span></div>
      {findings.length === 0 && <p className="hint">Nothing wrong: UVs are there and inside the square, no flat triangles.</p>}
      {findings.map((f) => (
        <div key={f.what} className={f.serious ? "finding serious" : "finding"}>
          <b>{f.what}</b>
          <small>{f.remedy}</small>
        </div>
      ))}
    </section>
  );
}

export function SurfaceRight() {
  const project = useStore((s) => s.project);
  const catalog = useStore((s) => s.catalog);
  if (!project) return null;
  if (!project.piece.has_uvs) return <p className="hint" style={{ paddingTop: 12 }}>Readings are taken per texel; this piece has no UVs yet, so there is nothing to measure.</p>;
  const readings = catalog.filter((e) => e.family === "reading");
  const missing = project.readings.filter((r) => !r.fresh).map((r) => r.kind);
  return (
    <>
      <div className="panel-head">
        <span>Readings at {project.document.draft_size}</span>
        <Button disabled={missing.length === 0} onClick={() => measure(missing)}>{missing.length === 0 ? "All measured" : "Measure all"}</Button>
      </div>
      {readings.map((entry) => {
        const state = project.readings.find((r) => r.kind === entry.kind);
        return state && <Reading key={entry.kind} entry={entry} state={state} project={project} />;
      })}
    </>
  );
}

function Reading({ entry, state, project }: { entry: Entry; state: ReadingState; project: ProjectView }) {
  const key: Shown = `reading:${entry.kind}`;
  const on = useStore((s) => s.shown === key);
  const settings = project.document.readings[entry.kind] ?? {};
  const version = `${project.document.draft_size}-${JSON.stringify(settings)}-${state.seconds ?? 0}`;
  return (
    <article className={on ? "reading shown" : "reading"} data-reading={entry.kind}>
      <Tooltip label={on ? "Show the piece lit again" : "Show it on the piece"}>
        <button className="reading-picture" aria-pressed={on} aria-label={`Show ${entry.label}`} disabled={!state.fresh} onClick={() => show(on ? "lit" : key)}>
          {state.fresh ? <img src={`/api/projects/${project.id}/reading/${entry.kind}/picture?v=${encodeURIComponent(version)}`} alt="" /> : "not measured"}
        </button>
      </Tooltip>
      <div className="reading-text">
        <h2>{entry.label}</h2>
        <span className="soft" style={{ fontSize: 12 }}>{entry.help}</span>
        <Freshness state={state} />
      </div>
      {state.measured && (
        <div className="reading-settings">
          {entry.params.map((spec: ParamSpec) => (
            <Setting key={spec.key} spec={spec} param={settings[spec.key]} target={{ reading: entry.kind, key: spec.key }} drivable={false} />
          ))}
          {!state.fresh && <Button variant="default" onClick={() => measure([entry.kind])}>Measure</Button>}
        </div>
      )}
    </article>
  );
}

function Freshness({ state }: { state: ReadingState }) {
  if (!state.measured) return <span className="state-fresh">always at hand</span>;
  if (!state.fresh) return <span className="state-missing">{state.needed ? "to be measured, a mask needs it" : "not measured yet"}</span>;
  return <span className="state-fresh">measured in {(state.seconds ?? 0).toFixed(1)} s</span>;
}
