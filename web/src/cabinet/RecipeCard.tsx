// A recipe of the cabinet: what it looks like, what it is made of, and what can be done with it.
import { Button, Checkbox, Menu } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";

import { api } from "../api/client";
import { queries } from "../api/queries";
import type { CabinetCard, MarkRequest } from "../api/types";
import { bands } from "../controls/bands";
import { placeOver } from "../rooms/build/lay";
import { say } from "../state/actions";
import { useStore } from "../state/store";
import { carries } from "./drag";
import { layOrAsk, LaySheet } from "./LaySheet";
import { Marks } from "./Marks";
import { OnPiece, Shown } from "./Shown";

interface Props {
  card: CabinetCard;
  picked: boolean;
  pick: (on: boolean) => void;
}

export function RecipeCard({ card, picked, pick }: Props) {
  const { id, name, note, tags, layers, dials, presets, needs, marks } = card;
  /** Where it is to be laid while one is asked how. */
  const [asking, setAsking] = useState<{ over: string | null } | null>(null);
  const [used, setUsed] = useState(false);
  const lay = (over: string | null) => layOrAsk(card, over, () => setAsking({ over })).catch(say);
  const mark = (request: MarkRequest) =>
    api.markRecipe(id, request).then((cards) => queries.setQueryData(["cabinet"], cards), say);
  const turned = dials.filter((d) => !needs.parts.includes(d) && !needs.pictures.includes(d));
  const asks = [...needs.parts.map((p) => `part ${p}`), ...needs.pictures.map((p) => `picture ${p}`)];
  return (
    <article
      className="thing"
      data-recipe={name}
      {...(marks.removed ? {} : carries({ onto: "section", drop: (over) => void lay(over) }))}
    >
      <Shown ball={`/api/cabinet/${id}/picture`}>
        <Laid card={card} />
      </Shown>
      <div className="thing-text">
        <h2>
          {name} {card.version > 1 && <span className="soft">version {card.version}</span>}
        </h2>
        {note && <p className="soft">{note}</p>}
        <span className="recipe-layers">
          {layers
            .map(({ name: layer, colors }, i) => (
              <i key={i} className="swatch" title={layer} style={{ background: bands(colors) }} />
            ))
            .reverse()}
        </span>
        {turned.length > 0 && <small className="soft">Dials: {turned.join(", ")}</small>}
        {presets.length > 0 && <small className="soft">Presets: {presets.join(", ")}</small>}
        {asks.length > 0 && <small className="soft">Asks for {asks.join(", ")}</small>}
        {tags.length > 0 && <small className="soft thing-tags">{tags.join(" · ")}</small>}
        {used && <Used id={id} />}
      </div>
      <div className="thing-foot">
        {marks.removed ? (
          <Button onClick={() => mark({ removed: false })}>Put it back</Button>
        ) : (
          <>
            <Button onClick={() => void lay(null)}>Lay on this piece</Button>
            <Button variant="default" onClick={() => setAsking({ over: null })}>
              Look first…
            </Button>
            <Checkbox
              size="xs"
              label="pick"
              aria-label={`Pick ${name}, to export it with others`}
              checked={picked}
              onChange={(e) => pick(e.currentTarget.checked)}
            />
            <Marks name={name} marks={marks} mark={mark}>
              <Menu.Item onClick={() => setUsed(true)}>Where it is used</Menu.Item>
              <Menu.Item component="a" href={api.recipeFiles([id])} download={`${name}.coatrecipe`}>
                Export
              </Menu.Item>
            </Marks>
          </>
        )}
      </div>
      {asking && <LaySheet card={card} place={placeOver(asking.over)} close={() => setAsking(null)} />}
    </article>
  );
}

/** The projects that use it. */
function Used({ id }: { id: number }) {
  const used = useQuery({ queryKey: ["used", id], queryFn: () => api.usedIn(id), staleTime: 0 });
  if (!used.data) return null;
  if (used.data.length === 0) return <small className="soft">No project uses it.</small>;
  return (
    <small className="thing-used">
      {used.data.map((u) => (
        <span key={u.project}>
          <Link href={`/p/${u.project}/build`}>{u.name}</Link>: {u.layers.join("; ")}
        </span>
      ))}
    </small>
  );
}

/** It on this piece: its slots filled as they would be if nobody said how. */
function Laid({ card }: { card: CabinetCard }) {
  const project = useStore((s) => s.project?.id);
  const piece = useStore((s) => s.project?.piece.hash);
  const fit = useQuery({
    queryKey: ["fit", project, piece, card.id],
    queryFn: () => api.fit(project ?? 0, { recipe: card.id }),
    enabled: project !== undefined,
  });
  if (!fit.data) return <div className="look waiting">{fit.error?.message}</div>;
  const place = { inside: null, ...placeOver(null) };
  return <OnPiece name={card.name} edits={[{ edit: "add_layer", ...place, layer: fit.data.layer }]} />;
}
