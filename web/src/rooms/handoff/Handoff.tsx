// The Hand-off room: what will be written as a table, problems to know of, one button, the download.
import { Button, Checkbox, NumberInput, Select, TextInput } from "@mantine/core";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api } from "../../api/client";
import type { HandoffDone, Layout, PlannedFile } from "../../api/types";
import { say } from "../../state/actions";
import { busy, useStore } from "../../state/store";

/** Left out to begin with: whoever needs it knows. */
const SELDOM = "normal_y_down";
const SIZES = ["256", "512", "1024", "2048", "4096", "8192"];

const NONE: string[] = [];

export function Handoff() {
  const id = useStore((s) => s.project?.id ?? 0);
  const revision = useStore((s) => s.project?.revision ?? 0);
  const draft = useStore((s) => s.project?.document.draft_size ?? 1024);
  const catalog = useStore((s) => s.catalog);
  const all = catalog.filter((e) => e.family === "map");
  const sheets = useStore((s) => s.project?.piece.sheets.length ?? 1);
  const pattern = sheets > 1 ? "{piece}_{sheet}_{map}" : "{piece}_{map}";
  const [layout, setLayout] = useState<Layout>({
    size: draft,
    pattern,
    maps: all.map((e) => e.kind).filter((k) => k !== SELDOM),
    height_range: 1,
  });
  const plan = useQuery({
    queryKey: ["plan", id, revision, layout],
    queryFn: () => api.planHandoff(id, layout),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const [done, setDone] = useState<{ made: HandoffDone; revision: number } | null>(null);
  const [writing, setWriting] = useState(false);
  const fetching = plan.isFetching;
  const fits = plan.data?.fits ?? null;
  useEffect(() => (fetching ? busy() : undefined), [fetching]);
  const write = async () => {
    setWriting(true);
    const settle = busy();
    try {
      setDone({ made: await api.writeHandoff(id, layout), revision });
    } catch (error) {
      say(error);
    } finally {
      setWriting(false);
      settle();
    }
  };
  const change = (part: Partial<Layout>) => {
    setLayout({ ...layout, ...part });
    setDone(null);
  };
  const toggle = (key: string, on: boolean) =>
    change({ maps: all.map((e) => e.kind).filter((k) => (k === key ? on : layout.maps.includes(k))) });
  return (
    <>
      <div className="panel-head">
        <span>What is written</span>
      </div>
      <div className="block" style={{ borderTop: 0, paddingTop: 0 }}>
        <div className="pair">
          <Select
            label="Texture size"
            data={SIZES.map((value) => ({ value, label: `${value} × ${value}` }))}
            value={String(layout.size)}
            onChange={(v) => v && change({ size: Number(v) })}
          />
          <NumberInput
            label="Height that is white"
            value={layout.height_range}
            min={0.01}
            max={100}
            suffix=" mm"
            clampBehavior="blur"
            onChange={(v) => typeof v === "number" && v > 0 && change({ height_range: v })}
          />
        </div>
        <TextInput
          label="File names"
          description="{piece}, {sheet}, {map} and {size} are filled in"
          value={layout.pattern}
          onChange={(e) => change({ pattern: e.currentTarget.value })}
        />
        <div>
          {all
            .filter(({ kind }) => !(plan.data?.unlaid ?? NONE).includes(kind))
            .map(({ kind, label }) => (
              <Checkbox
                key={kind}
                size="xs"
                mt={6}
                label={label}
                checked={layout.maps.includes(kind)}
                onChange={(e) => toggle(kind, e.currentTarget.checked)}
              />
            ))}
        </div>
      </div>
      <div className="block">
        {plan.isError ? <p className="warn">{plan.error.message}</p> : <Files files={plan.data?.files ?? null} />}
        {plan.data?.problems.map((p) => (
          <div key={p.what} className={p.serious ? "finding serious" : "finding"} style={{ margin: 0 }}>
            <b>{p.what}</b>
            <small>{p.remedy}</small>
          </div>
        ))}
        {fits !== null && (
          <Button variant="default" onClick={() => change({ height_range: fits })}>
            Take {fits} mm as white
          </Button>
        )}
        <Button
          h={32}
          loading={writing}
          disabled={plan.isError || layout.maps.length === 0}
          onClick={() => void write()}
        >
          Write files
        </Button>
        {done && <Written made={done.made} old={done.revision !== revision} />}
      </div>
    </>
  );
}

function Files({ files }: { files: PlannedFile[] | null }) {
  if (files === null) return <p className="soft">Looking what would be written…</p>;
  if (files.length === 0) return <p className="soft">Nothing is ticked, so nothing will be written.</p>;
  return (
    <table className="files">
      <thead>
        <tr>
          <th>File</th>
          <th>Channels</th>
          <th className="num">Size</th>
        </tr>
      </thead>
      <tbody>
        {files.map((f) => (
          <tr key={f.name}>
            <td className="mono">{f.name}</td>
            <td>{f.channels}</td>
            <td className="num">
              {f.size}²
              {f.bits > 0 && (
                <>
                  <br />
                  {f.bits} bit
                </>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Written({ made, old }: { made: HandoffDone; old: boolean }) {
  return (
    <div className="row">
      <span>
        {made.files.length} files, {(made.bytes / 1e6).toFixed(1)} MB, in {made.seconds.toFixed(1)} s.
        {old && <span className="warn"> The piece was changed since; write them again.</span>}
      </span>
      <Button
        component="a"
        variant="default"
        href={`/api/downloads/${made.download}/${encodeURIComponent(made.name)}`}
        download={made.name}
      >
        Download
      </Button>
    </div>
  );
}
