// A ready finish: laid over the selected layer.
import { Button } from "@mantine/core";
import type { ReactNode } from "react";

import type { Entry } from "../api/types";
import { layOver, placeOver } from "../rooms/build/lay";
import { useStore } from "../state/store";
import { carries } from "./drag";
import { OnPiece, Shown } from "./Shown";

export function FinishCard({ entry, star }: { entry: Entry; star: ReactNode }) {
  const selected = useStore((s) => s.layer);
  const lay = (over: string | null) => {
    if (entry.layer) void layOver(entry.layer, over, entry.dials);
  };
  return (
    <article className="thing" data-finish-card={entry.kind} {...carries({ onto: "section", drop: lay })}>
      <Shown ball={`/api/finishes/${entry.kind}/picture`}>
        {entry.layer && (
          <OnPiece
            name={entry.label}
            edits={[
              { edit: "add_layer", inside: null, ...placeOver(selected), layer: entry.layer, dials: entry.dials },
            ]}
          />
        )}
      </Shown>
      <div className="thing-text">
        <h2>{entry.label}</h2>
        <p className="soft">{entry.help}</p>
      </div>
      <div className="thing-foot">
        <Button variant="default" onClick={() => lay(selected)}>
          Lay this finish
        </Button>
        {star}
      </div>
    </article>
  );
}
