// Saves a layer or group, or the whole section, with the dials that drive it, as a recipe in the cabinet.
import { Select, Switch, TagsInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../../api/client";
import { queries } from "../../api/queries";
import type { Layer } from "../../api/types";
import { cabinetChanged } from "../../state/actions";
import { isDrawn } from "../../state/document";
import { useStore } from "../../state/store";
import { Naming } from "./Naming";

const OWN = "own";

/** Without a layer it is the whole section. */
export function SaveRecipe({ layer, close }: { layer: Layer | null; close: () => void }) {
  const id = useStore((s) => s.project?.id ?? 0);
  const project = useStore((s) => s.project?.document.name ?? "");
  const kept = useQuery({ queryKey: ["cabinet"], queryFn: api.cabinet });
  const there = (kept.data ?? []).filter((card) => !card.marks.removed);
  const suggested = layer?.name ?? project;
  // What is called like a recipe of the cabinet is most likely its next version.
  const called = there.find((card) => card.name === suggested);
  const [chosen, setChosen] = useState<string | null>(null);
  const of = chosen ?? (called ? String(called.id) : OWN);
  const before = there.find((card) => String(card.id) === of);
  const rows = useStore((s) => s.project?.document.layers);
  const drawn = isDrawn(layer ? [layer] : (rows ?? []));
  const [keepDrawn, setKeepDrawn] = useState(false);
  const [written, setTags] = useState<string[] | null>(null);
  const tags = written ?? before?.tags ?? [];
  const save = async (name: string, note: string) => {
    const from = { ...(layer ? { layer: layer.id } : {}), ...(of === OWN ? {} : { of: Number(of) }) };
    const what = { name, note, tags, ...from, keep_drawn: drawn && keepDrawn };
    queries.setQueryData(["cabinet"], await api.saveRecipe(id, what));
    // Uses of it are told that there is a newer version.
    cabinetChanged();
  };
  const versions = there.map((card) => ({
    value: String(card.id),
    label: `version ${card.version + 1} of ${card.name}`,
  }));
  const words = [...new Set(there.flatMap((card) => card.tags))];
  return (
    <Naming
      title={layer ? "Save as a recipe" : "Save the section as a recipe"}
      hint="The dials that drive its settings go with it, variants become presets, and the parts and pictures that it names are asked for wherever it is laid."
      name={suggested}
      save={save}
      close={close}
    >
      <TagsInput
        label="Tags: words to find it by"
        data={words}
        value={tags}
        onChange={setTags}
        clearButtonProps={{ "aria-label": "Remove all tags" }}
      />
      {versions.length > 0 && (
        <Select
          label="It becomes"
          data={[{ value: OWN, label: "a recipe of its own" }, ...versions]}
          value={of}
          onChange={(v) => setChosen(v)}
        />
      )}
      {drawn && (
        <Switch
          label="Keep its strokes and pins"
          description="They show on pieces of this shape alone, however those are unwrapped. Without them their steps are empty, to be drawn in anew."
          checked={keepDrawn}
          onChange={(e) => setKeepDrawn(e.currentTarget.checked)}
        />
      )}
    </Naming>
  );
}
