// Saves a layer's mask line as a starter in the cabinet.
import { useQueryClient } from "@tanstack/react-query";

import { api } from "../../api/client";
import type { Layer } from "../../api/types";
import { useStore } from "../../state/store";
import { Naming } from "./Naming";

export function SaveLine({ layer, close }: { layer: Layer; close: () => void }) {
  const id = useStore((s) => s.project?.id ?? 0);
  const queries = useQueryClient();
  const save = async (name: string, note: string) => {
    queries.setQueryData(["lines"], await api.saveLine(id, { layer: layer.id, name, note }));
  };
  return (
    <Naming
      title="Save the mask line as a starter"
      hint="The finder offers it in every project. What dials drive stands where it stands now."
      name={layer.name}
      save={save}
      close={close}
    />
  );
}
