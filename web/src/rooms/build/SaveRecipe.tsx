// Saves a layer or group, with the dials that drive it, as a recipe in the cabinet.
import { Select } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../../api/client";
import type { Layer } from "../../api/types";
import { cabinetChanged } from "../../state/actions";
import { useStore } from "../../state/store";
import { Naming } from "./Naming";

const OWN = "own";

export function SaveRecipe({ layer, close }: { layer: Layer; close: () => void }) {
  const id = useStore((s) => s.project?.id ?? 0);
  const queries = useQueryClient();
  const kept = useQuery({ queryKey: ["cabinet"], queryFn: api.cabinet });
  // What is called like a recipe of the cabinet is most likely its next version.
  const called = kept.data?.find((card) => card.recipe.name === layer.name);
  const [chosen, setChosen] = useState<string | null>(null);
  const of = chosen ?? (called ? String(called.id) : OWN);
  const save = async (name: string, note: string) => {
    const next = of === OWN ? {} : { of: Number(of) };
    queries.setQueryData(["cabinet"], await api.saveRecipe(id, { layer: layer.id, name, note, ...next }));
    // Uses of it are told that there is a newer version.
    cabinetChanged();
  };
  const versions = (kept.data ?? []).map(({ id: card, recipe }) => ({
    value: String(card),
    label: `version ${recipe.version + 1} of ${recipe.name}`,
  }));
  return (
    <Naming
      title="Save as a recipe"
      hint="The dials that drive its settings go with it."
      name={layer.name}
      save={save}
      close={close}
    >
      {versions.length > 0 && (
        <Select
          label="It becomes"
          data={[{ value: OWN, label: "a recipe of its own" }, ...versions]}
          value={of}
          onChange={(v) => setChosen(v)}
        />
      )}
    </Naming>
  );
}
