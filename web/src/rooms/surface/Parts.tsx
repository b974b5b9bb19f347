// The parts: what tells them apart, their names and colours, and picking them on the piece.
import { Button, Checkbox, Select } from "@mantine/core";
import { useState } from "react";

import type { Part, PartsBy, ProjectView, Sharing, Swapped } from "../../api/types";
import { Track } from "../../controls/Track";
import { useDraft } from "../../controls/useDraft";
import { commit, show } from "../../state/actions";
import { useStore } from "../../state/store";

export function Parts({ project }: { project: ProjectView }) {
  const part = useStore((s) => s.part);
  const on = useStore((s) => s.shown === "parts");
  const { piece } = project;
  const { parts_by, tolerance, swapped } = project.document.intake;
  const ways = useWays("way");
  const pick = (next: number | null) => {
    useStore.setState({ part: next });
    if (!on) show("parts");
  };
  return (
    <section className="group">
      <div className="panel-head">
        <span>
          {piece.parts.length} {piece.parts.length === 1 ? "part" : "parts"}
        </span>
        <Button variant={on ? "filled" : "default"} aria-pressed={on} onClick={() => show(on ? "lit" : "parts")}>
          Show in colour
        </Button>
      </div>
      <div className="block first">
        <div className="row">
          <span>Told by</span>
          <Select
            w={140}
            aria-label="Parts are told by"
            data={ways.filter((way) => piece.ways.some((w) => w === way.value))}
            value={parts_by}
            onChange={(v) => v !== null && void commit({ edit: "tell_parts", by: v as PartsBy })}
          />
        </div>
        {(parts_by === "colors" || parts_by === "picture") && <Tolerance value={tolerance} by={parts_by} />}
      </div>
      {swapped && <AfterSwap swapped={swapped} parts={piece.parts} />}
      <div role="list" aria-label="Parts">
        {piece.parts.map((p, i) => (
          <Row key={p.key} part={p} selected={part === i} pick={() => pick(part === i ? null : i)}>
            {piece.marks && (
              <Uvs
                part={p}
                faults={piece.layout.faults[i] ?? []}
                shares={piece.layout.shared[i] ?? false}
                anew={project.document.intake.parts[p.key]?.unwrap ?? false}
              />
            )}
          </Row>
        ))}
      </div>
      <p className="hint" style={{ paddingTop: 8 }}>
        Click a part here, or on the piece while it is shown in colour. Names and colours can be changed.
      </p>
    </section>
  );
}

/** What is chosen among, as the catalog calls it. */
function useWays(family: "way" | "sharing") {
  const catalog = useStore((s) => s.catalog);
  return catalog.filter((e) => e.family === family).map((e) => ({ value: e.kind, label: e.label }));
}

/** What the last swap of the mesh left open: parts that nothing answers to, with a choice of what they are now, and parts that were matched by place. */
function AfterSwap({ swapped, parts }: { swapped: Swapped; parts: Part[] }) {
  const named = (name: string) => parts.some((p) => p.name === name);
  const lost = swapped.lost.filter((name) => !named(name));
  const free = parts.filter((p) => swapped.fresh.includes(p.key));
  const takeFor = (name: string, key: string | null) => {
    const part = parts.find((p) => p.key === key);
    if (part) void commit({ edit: "set_part", part: part.key, was: part.name, name });
  };
  return (
    <div className="block after-swap" role="group" aria-label="After the swap">
      <div className="row">
        <b className="cut">Since {swapped.from}</b>
        <Button variant="subtle" onClick={() => void commit({ edit: "settle_swap" })}>
          Seen to
        </Button>
      </div>
      {lost.map((name) => (
        <div key={name} className="row" data-lost={name}>
          <span className="state-missing cut">{name} is gone</span>
          <Select
            w={140}
            aria-label={`What ${name} is now`}
            placeholder="what it is now"
            data={(free.length > 0 ? free : parts).map((p) => ({ value: p.key, label: p.name }))}
            value={null}
            onChange={(v) => takeFor(name, v)}
          />
        </div>
      ))}
      {lost.length > 0 && (
        <small className="soft">Masks that ask for it show nothing until a part goes by its name.</small>
      )}
      {swapped.placed.map(([name, now]) => (
        <small key={now} className="soft" data-placed={name}>
          {name} was found by its place; the file calls it {now}.
        </small>
      ))}
      {free.length > 0 && <small className="soft">New: {free.map((p) => p.name).join(", ")}.</small>}
    </div>
  );
}

function Tolerance({ value, by }: { value: number; by: PartsBy }) {
  const spec = useStore((s) => s.catalog.find((e) => e.family === "piece")?.params[0]);
  const [now, setNow] = useDraft(value, (v) => v);
  return (
    <div className="row">
      <span>
        Tolerance <span className="mono soft">{now.toFixed(2)}</span>
      </span>
      <div style={{ width: 140 }}>
        {spec && (
          <Track
            spec={spec}
            value={now}
            size={2}
            attempt={setNow}
            keep={(v) => void commit({ edit: "tell_parts", by, tolerance: v })}
          />
        )}
      </div>
    </div>
  );
}

/** What is wrong with a part's UVs, and whether they are laid out anew for it. */
function Uvs({ part, faults, shares, anew }: { part: Part; faults: string[]; shares: boolean; anew: boolean }) {
  const sharing = useWays("sharing");
  if (faults.length === 0 && !anew && part.shared === "first") return null;
  return (
    <div className="part-uvs" onClick={(e) => e.stopPropagation()}>
      {faults.length > 0 && <small className="soft">UVs: {faults.join(", ")}.</small>}
      <Checkbox
        size="xs"
        label="UVs laid out anew"
        aria-label={`UVs of ${part.name} laid out anew`}
        checked={anew}
        onChange={(e) => void commit({ edit: "unwrap_part", part: part.key, anew: e.currentTarget.checked })}
      />
      {(shares || part.shared !== "first") && !anew && (
        <Select
          size="xs"
          label="Shared texels"
          description="How what several faces share is measured."
          aria-label={`Shared texels of ${part.name}`}
          data={sharing}
          value={part.shared}
          onChange={(v) => v !== null && void commit({ edit: "share_texels", part: part.key, shared: v as Sharing })}
        />
      )}
    </div>
  );
}

interface RowProps {
  part: Part;
  selected: boolean;
  pick: () => void;
  children: React.ReactNode;
}

function Row({ part, selected, pick, children }: RowProps) {
  const [name, setName] = useDraft(part.name, (v) => v);
  const [color, setColor] = useState<string | null>(null);
  const keep = () => {
    const text = name.trim();
    if (text !== "" && text !== part.name)
      void commit({ edit: "set_part", part: part.key, was: part.name, name: text });
    else setName(part.name);
  };
  const recolour = () => {
    if (color !== null && color !== part.color)
      void commit({ edit: "set_part", part: part.key, was: part.name, color });
    setColor(null);
  };
  return (
    <div role="listitem" data-part={part.name} className={selected ? "part-row selected" : "part-row"} onClick={pick}>
      <input
        type="color"
        className="part-color"
        aria-label={`Colour of ${part.name}`}
        value={color ?? part.color}
        onClick={(e) => e.stopPropagation()}
        onChange={(e) => setColor(e.currentTarget.value)}
        onBlur={recolour}
      />
      <input
        className="part-name"
        aria-label={`Name of ${part.name}`}
        value={name}
        onClick={(e) => e.stopPropagation()}
        onChange={(e) => setName(e.currentTarget.value)}
        onBlur={keep}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      <button
        className="part-area soft mono"
        aria-pressed={selected}
        aria-label={`Pick ${part.name}, ${area(part.area)}`}
        onClick={(e) => {
          e.stopPropagation();
          pick();
        }}
      >
        {area(part.area)}
      </button>
      {children}
    </div>
  );
}

const area = (mm2: number) => (mm2 >= 1000 ? `${(mm2 / 100).toFixed(0)} cm²` : `${mm2.toFixed(0)} mm²`);
