// The presets of a recipe in use: each with a picture of this piece, taken for this use, or kept in the next version of the recipe.
import { Button, Popover } from "@mantine/core";
import { IconChevronDown } from "@tabler/icons-react";
import { useState } from "react";

import { api } from "../../api/client";
import type { Edit } from "../../api/types";
import { KeepAs } from "../../controls/KeepAs";
import { Look } from "../../controls/Look";
import { bring, commit } from "../../state/actions";
import { asSeen } from "../../view/asSeen";
import type { Use } from "./RecipeDials";

/** Pixels of a picture from top to bottom, and samples to each. */
const PICTURE = { height: 108, samples: 8 };

export function Presets({ use }: { use: Use }) {
  const names = (use.recipe.presets ?? []).map((p) => p.name);
  const [opened, setOpened] = useState(false);
  const keep = (name: string) => void bring((p) => api.keepPreset(p.id, { revision: p.revision, layer: use.id, name }));
  return (
    <div className="presets">
      {names.length > 0 && (
        <Popover opened={opened} onChange={setOpened} position="bottom-end" width={300} withinPortal trapFocus>
          <Popover.Target>
            <Button
              variant="default"
              justify="space-between"
              rightSection={<IconChevronDown size={13} />}
              aria-label={`Presets of ${use.name}`}
              onClick={() => setOpened(!opened)}
            >
              Take a preset
            </Button>
          </Popover.Target>
          <Popover.Dropdown aria-label={`Presets of ${use.name}`}>
            {opened && <List use={use} names={names} close={() => setOpened(false)} />}
          </Popover.Dropdown>
        </Popover>
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

function List({ use, names, close }: { use: Use; names: string[]; close: () => void }) {
  const [still] = useState(() => asSeen(PICTURE.height, PICTURE.samples));
  return (
    <div className="preset-list">
      {names.map((name) => {
        const edit: Edit = { edit: "take_preset", layer: use.id, name };
        return (
          <button
            key={name}
            aria-label={`Take ${name}`}
            onClick={() => {
              close();
              void commit(edit);
            }}
          >
            <Look edits={[edit]} still={still} alt={`The piece with ${name}`} />
            <span>{name}</span>
          </button>
        );
      })}
    </div>
  );
}
