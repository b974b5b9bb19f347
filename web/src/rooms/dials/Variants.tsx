// Named sets of what the dials stand at.
import { ActionIcon, Button, Tooltip } from "@mantine/core";
import { IconTrash } from "@tabler/icons-react";

import type { Variant } from "../../api/types";
import { KeepAs } from "../../controls/KeepAs";
import { commit } from "../../state/actions";

export function Variants({ variants }: { variants: Variant[] }) {
  return (
    <section className="block" data-testid="variants">
      <h2 className="soft">Variants</h2>
      {variants.length === 0 && (
        <p className="soft" style={{ margin: 0 }}>
          Keep what the dials stand at under a name, to come back to it and to wipe against it.
        </p>
      )}
      {variants.map((v) => (
        <div key={v.name} className="row" data-kept={v.name}>
          <span className="snapshot-name" title={v.name}>
            {v.name}
          </span>
          <Button
            variant="default"
            aria-label={`Take ${v.name}`}
            onClick={() => void commit({ edit: "take_variant", name: v.name })}
          >
            Take
          </Button>
          <Tooltip label={`Forget ${v.name}; undo brings it back`}>
            <ActionIcon
              variant="default"
              size={26}
              aria-label={`Forget ${v.name}`}
              onClick={() => void commit({ edit: "remove_variant", name: v.name })}
            >
              <IconTrash size={14} />
            </ActionIcon>
          </Tooltip>
        </div>
      ))}
      <KeepAs
        label="Name of the variant"
        kind="Variant"
        taken={variants.map((v) => v.name)}
        button="Keep them"
        keep={(name) => void commit({ edit: "keep_variant", name })}
      />
    </section>
  );
}
