// A mask line that was saved as a starter: put into the selected layer's line.
import { Button } from "@mantine/core";

import { api } from "../api/client";
import { queries } from "../api/queries";
import type { KeptLine, MarkRequest } from "../api/types";
import { addSteps, stepsEdit } from "../rooms/build/steps";
import { say } from "../state/actions";
import { findLayer, sentence } from "../state/document";
import { useStore } from "../state/store";
import { carries } from "./drag";
import { Marks } from "./Marks";
import { OnPiece, Shown } from "./Shown";

export function LineCard({ line }: { line: KeptLine }) {
  const layer = useStore((s) =>
    s.project && s.layer !== null ? findLayer(s.project.document.layers, s.layer) : undefined,
  );
  const building = useStore((s) => s.room === "build");
  const catalog = useStore((s) => s.catalog);
  const put = (work: Promise<KeptLine[]>) => work.then((all) => queries.setQueryData(["lines"], all), say);
  const mark = (request: MarkRequest) => void put(api.markLine(line.id, request));
  const add = () => {
    if (!layer) return;
    void addSteps(layer, layer.mask.steps.length, line.steps);
    void put(api.countLine(line.id));
  };
  const out = line.marks.removed;
  return (
    <article className="thing" data-line={line.name} {...(out ? {} : carries({ onto: "line", drop: add }))}>
      <Shown ball={`/api/lines/${line.id}/picture`}>
        {layer && <OnPiece name={line.name} edits={[stepsEdit(layer, layer.mask.steps.length, line.steps)]} />}
      </Shown>
      <div className="thing-text">
        <h2>{line.name}</h2>
        {line.note && <p className="soft">{line.note}</p>}
        <small className="soft">Starter: {sentence(line.steps, catalog)}</small>
      </div>
      <div className="thing-foot">
        {out ? (
          <Button onClick={() => mark({ removed: false })}>Put it back</Button>
        ) : (
          <>
            <Button disabled={!layer || !building} onClick={add}>
              {layer && building ? `Add to ${layer.name}` : "Select a layer in Build"}
            </Button>
            <Marks name={line.name} marks={line.marks} mark={mark} />
          </>
        )}
      </div>
    </article>
  );
}
