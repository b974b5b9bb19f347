// The Hand-off room: the layout of what is written, the check list, one button, the download.
import { Button, Checkbox, NumberInput, Select, TextInput } from "@mantine/core";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api } from "../../api/client";
import type { HandoffDone, HandoffView, Layout } from "../../api/types";
import { useDraft } from "../../controls/useDraft";
import { commit, say } from "../../state/actions";
import { busy, useStore } from "../../state/store";
import { Checks } from "./Checks";
import { FileRows } from "./FileRows";
import { Layouts } from "./Layouts";

const SIZES = ["256", "512", "1024", "2048", "4096", "8192"];

export function Handoff() {
  const id = useStore((s) => s.project?.id ?? 0);
  const revision = useStore((s) => s.project?.revision ?? 0);
  const plan = useQuery({
    queryKey: ["plan", id, revision],
    queryFn: () => api.planHandoff(id, {}),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const fetching = plan.isFetching;
  useEffect(() => (fetching ? busy() : undefined), [fetching]);
  if (plan.isError) return <p className="warn hint">{plan.error.message}</p>;
  if (!plan.data) return <p className="hint">Looking what would be written…</p>;
  return <Planned id={id} revision={revision} plan={plan.data} />;
}

function Planned({ id, revision, plan }: { id: number; revision: number; plan: HandoffView }) {
  const variants = useStore((s) => s.project?.document.variants?.length ?? 0);
  const [all, setAll] = useState(false);
  const [done, setDone] = useState<{ made: HandoffDone; revision: number } | null>(null);
  const [writing, setWriting] = useState(false);
  const { layout, fits } = plan;
  const change = (part: Partial<Layout>) => void commit({ edit: "set_layout", layout: { ...layout, ...part } });
  const write = async () => {
    setWriting(true);
    const settle = busy();
    try {
      setDone({ made: await api.writeHandoff(id, { variants: all && variants > 0 }), revision });
    } catch (error) {
      say(error);
    } finally {
      setWriting(false);
      settle();
    }
  };
  return (
    <>
      <div className="panel-head">
        <span>What is written</span>
      </div>
      <div className="block" style={{ borderTop: 0, paddingTop: 0 }}>
        <Layouts layout={layout} ready={plan.ready} />
        <div className="pair">
          <Select
            label="Texture size"
            data={SIZES.map((value) => ({ value, label: `${value} × ${value}` }))}
            value={String(layout.size)}
            onChange={(v) => v && change({ size: Number(v) })}
          />
          <White value={layout.height_range} change={(height_range) => change({ height_range })} />
        </div>
        <Pattern value={layout.pattern} change={(pattern) => change({ pattern })} />
      </div>
      <FileRows plan={plan} change={(files) => change({ files })} />
      <div className="block">
        <Checks checks={plan.problems} />
        {fits !== null && (
          <Button variant="default" onClick={() => change({ height_range: fits })}>
            Take {fits} mm as white
          </Button>
        )}
        {variants > 0 && (
          <Checkbox
            size="xs"
            label={`All ${variants} variants, each in a folder of its name`}
            checked={all}
            onChange={(e) => setAll(e.currentTarget.checked)}
          />
        )}
        <Button h={32} loading={writing} disabled={plan.refused} onClick={() => void write()}>
          Write files
        </Button>
        {done && <Written made={done.made} old={done.revision !== revision} />}
      </div>
    </>
  );
}

function White({ value, change }: { value: number; change: (value: number) => void }) {
  const [draft, setDraft] = useDraft<number, string | number>(value, (v) => v);
  const keep = () => {
    const next = Number(draft);
    if (Number.isFinite(next) && next >= 0.01 && next <= 100) {
      if (next !== value) change(next);
    } else setDraft(value);
  };
  return (
    <NumberInput
      label="Height that is white"
      value={draft}
      min={0.01}
      max={100}
      suffix=" mm"
      clampBehavior="blur"
      onChange={setDraft}
      onBlur={keep}
      onKeyDown={(e) => e.key === "Enter" && keep()}
    />
  );
}

function Pattern({ value, change }: { value: string; change: (value: string) => void }) {
  const [draft, setDraft] = useDraft(value, (v) => v);
  const keep = () => {
    if (draft !== value) change(draft);
  };
  return (
    <TextInput
      label="File names"
      description="{piece}, {sheet}, {map}, {size}, {variant} and {revision} are filled in"
      value={draft}
      onChange={(e) => setDraft(e.currentTarget.value)}
      onBlur={keep}
      onKeyDown={(e) => e.key === "Enter" && keep()}
    />
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
