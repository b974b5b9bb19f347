// Saves a layer or group, with the dials that drive it, as a recipe in the cabinet.
import { useQueryClient } from "@tanstack/react-query";

import { api } from "../../api/client";
import type { Layer } from "../../api/types";
import { useStore } from "../../state/store";
import { Naming } from "./Naming";

export function SaveRecipe({ layer, close }: { layer: Layer; close: () => void }) {
  const id = useStore((s) => s.project?.id ?? 0);
  const queries = useQueryClient();
  const save = async (name: string, note: string) => {
    queries.setQueryData(["cabinet"], await api.saveRecipe(id, { layer: layer.id, name, note }));
  };
  return (
    <Naming
      title="Save as a recipe"
      hint="The dials that drive its settings go with it."
      name={layer.name}
      save={save}
      close={close}
    />
  );
}
