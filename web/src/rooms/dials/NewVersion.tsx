// A newer version of a recipe in use: what the piece looks like with it, what is lost, and taking it for this use or for all.
import { Button } from "@mantine/core";
import { useState } from "react";

import type { Layer } from "../../api/types";
import { Look } from "../../controls/Look";
import { commit, compareWith, compareWithEdit } from "../../state/actions";
import { allLayers } from "../../state/document";
import { comparing, useStore } from "../../state/store";
import { asSeen } from "../../view/asSeen";
import type { Use } from "./RecipeDials";

/** Pixels of a picture from top to bottom, and samples to each. */
const PICTURE = { height: 150, samples: 12 };

export function NewVersion({ use }: { use: Use }) {
  const newer = useStore((s) => s.project?.newer[use.id]);
  const layers = useStore((s) => s.project?.document.layers);
  const against = useStore(comparing);
  const [looking, setLooking] = useState(false);
  if (!newer || !layers) return null;
  const { recipe, lost } = newer;
  const follow = (layer: Layer) => ({ edit: "follow_recipe", layer: layer.id, recipe }) as const;
  const name = `${recipe.name}, version ${recipe.version}`;
  const wiped = against === name;
  const alike = allLayers(layers).filter(
    (l): l is Use => l.kind === "use" && l.recipe.id === recipe.id && l.recipe.version < recipe.version,
  );
  const still = looking ? asSeen(PICTURE.height, PICTURE.samples) : null;
  return (
    <div className="new-version" data-newer={recipe.version}>
      <p>
        This is version {use.recipe.version} of {recipe.name}; version {recipe.version} is in the cabinet.
        {lost.length > 0 && ` It has no place any more for ${lost.join(", ")}.`}
      </p>
      {looking && (
        <div className="pair">
          <figure>
            <Look edits={[]} still={still} alt="The piece as it is" />
            <figcaption>version {use.recipe.version}</figcaption>
          </figure>
          <figure>
            <Look edits={[follow(use)]} still={still} alt={`The piece with version ${recipe.version}`} />
            <figcaption>version {recipe.version}</figcaption>
          </figure>
        </div>
      )}
      <span className="row">
        <Button variant="default" aria-pressed={looking} onClick={() => setLooking(!looking)}>
          Compare
        </Button>
        <Button
          variant={wiped ? "filled" : "default"}
          aria-pressed={wiped}
          onClick={() => (wiped ? compareWith(null) : compareWithEdit({ name, edit: follow(use) }))}
        >
          Wipe
        </Button>
        <Button onClick={() => void commit(follow(use))}>Take version {recipe.version}</Button>
        {alike.length > 1 && (
          <Button variant="default" onClick={() => void commit(...alike.map(follow))}>
            For all {alike.length} uses
          </Button>
        )}
      </span>
    </div>
  );
}
