// Which layout: ready ones, those that are kept for all projects, and keeping this one; as a file to share as well.
import { Button, FileButton, Select } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../../api/client";
import type { KeptLayout, Layout, ReadyLayout } from "../../api/types";
import { KeepAs } from "../../controls/KeepAs";
import { commit, say } from "../../state/actions";
import { busy } from "../../state/store";

const KEPT = ["layouts"];
const NONE: KeptLayout[] = [];

/** Whether two layouts list the same files. */
function alike(a: Layout, b: Layout): boolean {
  return a.name === b.name && JSON.stringify(a.files) === JSON.stringify(b.files);
}

export function Layouts({ layout, ready }: { layout: Layout; ready: ReadyLayout[] }) {
  const [keeping, setKeeping] = useState(false);
  const client = useQueryClient();
  const kept = useQuery({ queryKey: KEPT, queryFn: api.layouts }).data ?? NONE;
  const all = [
    ...ready.map((r) => ({ value: r.key, layout: r.layout })),
    ...kept.map((k) => ({ value: String(k.id), layout: k.layout })),
  ];
  const here = all.find((l) => alike(l.layout, layout));
  const own = kept.find((k) => String(k.id) === here?.value);
  // Size, names and the height that is white stay as they were chosen: only the files are another's.
  const take = (next: Layout) =>
    void commit({ edit: "set_layout", layout: { ...layout, name: next.name, files: next.files } });
  const held = async (work: Promise<KeptLayout[]>) => {
    const settle = busy();
    try {
      client.setQueryData(KEPT, await work);
    } catch (error) {
      say(error);
    } finally {
      settle();
    }
  };
  const keep = (name: string) => {
    setKeeping(false);
    void held(api.keepLayout({ ...layout, name })).then(() =>
      commit({ edit: "set_layout", layout: { ...layout, name } }),
    );
  };
  const open = async (file: File | null) => {
    if (!file) return;
    try {
      await commit({ edit: "set_layout", layout: JSON.parse(await file.text()) as Layout });
    } catch {
      say(new Error(`${file.name} holds no layout. Take one that was saved here.`));
    }
  };
  const row = (l: { value: string; layout: Layout }) => ({ value: l.value, label: l.layout.name });
  return (
    <>
      <Select
        label="Layout"
        placeholder={`${layout.name}, changed`}
        data={[
          { group: "Ready", items: all.slice(0, ready.length).map(row) },
          { group: "Kept", items: all.slice(ready.length).map(row) },
        ].filter((g) => g.items.length > 0)}
        value={here?.value ?? null}
        onChange={(v) => {
          const next = all.find((l) => l.value === v);
          if (next) take(next.layout);
        }}
      />
      <div className="row layout-acts">
        <Button size="compact-xs" variant="subtle" aria-expanded={keeping} onClick={() => setKeeping(!keeping)}>
          Keep…
        </Button>
        {own && (
          <Button size="compact-xs" variant="subtle" onClick={() => void held(api.removeLayout(own.id))}>
            Take out
          </Button>
        )}
        <Button
          size="compact-xs"
          variant="subtle"
          component="a"
          href={`data:application/json;charset=utf-8,${encodeURIComponent(JSON.stringify(layout, null, 2))}`}
          download={`${layout.name}.layout.json`}
        >
          Save as a file
        </Button>
        <FileButton accept="application/json,.json" onChange={(file) => void open(file)}>
          {(props) => (
            <Button {...props} size="compact-xs" variant="subtle">
              From a file
            </Button>
          )}
        </FileButton>
      </div>
      {keeping && (
        <KeepAs
          label="Name of the layout"
          kind="Layout"
          taken={kept.map((k) => k.layout.name)}
          button="Keep"
          anew={false}
          keep={keep}
        />
      )}
    </>
  );
}
