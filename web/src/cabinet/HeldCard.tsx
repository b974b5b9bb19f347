// Palettes and pictures that a project holds, to be used in this one as well.
import { Button } from "@mantine/core";
import type { ReactNode } from "react";

import { api } from "../api/client";
import type { FoundPalette, FoundPicture } from "../api/types";
import { commit } from "../state/actions";
import { useStore } from "../state/store";

export function PaletteCard({ found: { project, palette }, star }: { found: FoundPalette; star: ReactNode }) {
  const here = useStore((s) => s.project?.document.study?.palettes?.some((p) => p.name === palette.name) ?? false);
  return (
    <article className="thing bare" data-palette={palette.name}>
      <div className="thing-text">
        <h2>{palette.name}</h2>
        <p className="soft">Palette of {project}</p>
        <span className="swatches">
          {palette.colors.map(({ color, weight }, i) => (
            <i key={i} title={color} style={{ background: color, flexGrow: weight }} />
          ))}
        </span>
      </div>
      <div className="thing-foot">
        <Button variant="default" disabled={here} onClick={() => void commit({ edit: "keep_palette", palette })}>
          {here ? "This project has one of that name" : "Keep in this project"}
        </Button>
        {star}
      </div>
    </article>
  );
}

export function PictureCard({ found: { id, project, picture }, star }: { found: FoundPicture; star: ReactNode }) {
  const here = useStore((s) => s.project?.document.intake.pictures?.some((p) => p.file === picture.file) ?? false);
  return (
    <article className="thing" data-picture={picture.file}>
      <img src={api.broughtPicture(id, picture.hash)} alt="" width={92} height={74} loading="lazy" />
      <div className="thing-text">
        <h2>{picture.file}</h2>
        <p className="soft">Picture of {project}</p>
      </div>
      <div className="thing-foot">
        <Button variant="default" disabled={here} onClick={() => void commit({ edit: "add_picture", picture })}>
          {here ? "This project has one of that name" : "Bring into this project"}
        </Button>
        {star}
      </div>
    </article>
  );
}
