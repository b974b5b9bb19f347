// The finder: type to search; every candidate is previewed on this piece, at this place in the line.
import { Modal, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api } from "../../api/client";
import type { Entry, Layer } from "../../api/types";
import { Pixels } from "../../controls/Pixels";
import { busy, useStore } from "../../state/store";
import { addEdit, addStep, freshStep, insertionPlace } from "./steps";

const FAMILIES = ["reading", "pattern", "source", "shaper"];

export function Finder({ layer }: { layer: Layer }) {
  const opened = useStore((s) => s.finderOpen);
  const close = () => useStore.setState({ finderOpen: false });
  return (
    <Modal opened={opened} onClose={close} title={`Put a step into the mask line of ${layer.name}`} size={592} yOffset={72}>
      {opened && <Search layer={layer} close={close} />}
    </Modal>
  );
}

function Search({ layer, close }: { layer: Layer; close: () => void }) {
  const catalog = useStore((s) => s.catalog);
  const project = useStore((s) => s.project);
  const size = useStore((s) => s.evaluation?.tile_size);
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const place = insertionPlace(layer);
  const all = catalog.filter((e) => FAMILIES.includes(e.family));
  const previews = useQuery({
    queryKey: ["previews", project?.id, project?.revision, layer.id, place],
    queryFn: () => api.preview(project?.id ?? 0, all.map((e) => addEdit(layer, place, freshStep(e, place)))),
    enabled: project !== null,
    staleTime: 60_000,
  });
  const fetching = previews.isFetching;
  useEffect(() => (fetching ? busy() : undefined), [fetching]);
  const found = all.filter((e) => `${e.label} ${e.kind} ${e.family} ${e.help}`.toLowerCase().includes(text.trim().toLowerCase()));
  const take = (entry: Entry | undefined) => {
    if (!entry) return;
    close();
    void addStep(layer, place, freshStep(entry, place));
  };
  const move = (by: number) => setAt((a) => Math.min(Math.max(a + by, 0), Math.max(found.length - 1, 0)));
  const keys: Record<string, () => void> = {
    ArrowRight: () => move(1), ArrowLeft: () => move(-1), ArrowDown: () => move(5), ArrowUp: () => move(-5), Enter: () => take(found[at]),
  };
  return (
    <>
      <TextInput
        data-autofocus
        mb="md"
        placeholder="Search: edges, clouds, threshold …"
        aria-label="Search steps"
        value={text}
        onChange={(e) => { setText(e.currentTarget.value); setAt(0); }}
        onKeyDown={(e) => {
          const act = keys[e.key];
          if (!act) return;
          e.preventDefault();
          act();
        }}
      />
      <div className="finder">
        {found.map((entry, i) => {
          const pixels = previews.data?.[all.indexOf(entry)];
          return (
            <button key={entry.kind} className={i === at ? "candidate at" : "candidate"} title={entry.help} data-candidate={entry.kind} onClick={() => take(entry)}>
              {pixels && size ? <span className="tile-picture"><Pixels address={pixels} size={size} label="" /></span> : <span className="no-picture">{previews.isFetching ? "…" : entry.measured ? "not measured yet" : "changes nothing here"}</span>}
              <b>{entry.label}</b>
              <small>{entry.family}</small>
            </button>
          );
        })}
        {found.length === 0 && <p className="soft">Nothing is called that. Readings, patterns, sources and shapers can be found by their name or what they do.</p>}
      </div>
    </>
  );
}
