// The presets of a recipe in use: taken for this use, or kept in the next version of the recipe.
import { Select } from "@mantine/core";

import { api } from "../../api/client";
import { KeepAs } from "../../controls/KeepAs";
import { bring, commit } from "../../state/actions";
import type { Use } from "./RecipeDials";

export function Presets({ use }: { use: Use }) {
  const names = (use.recipe.presets ?? []).map((p) => p.name);
  const keep = (name: string) => void bring((p) => api.keepPreset(p.id, { revision: p.revision, layer: use.id, name }));
  return (
    <div className="presets">
      {names.length > 0 && (
        <Select
          aria-label={`Preset for ${use.name}`}
          placeholder="Take a preset"
          data={names}
          value={null}
          onChange={(name) => name !== null && void commit({ edit: "take_preset", layer: use.id, name })}
        />
      )}
      <KeepAs
        label={`Name of the preset of ${use.name}`}
        kind="Preset"
        taken={names}
        button={`Keep in version ${use.recipe.version + 1}`}
        keep={keep}
      />
    </div>
  );
}
