// Pictures made elsewhere: what each is for and how its numbers are read. And a finer mesh whose relief the piece takes on.
import { ActionIcon, Button, NumberInput, Select, Switch, Tooltip } from "@mantine/core";
import { IconTrash } from "@tabler/icons-react";
import { useState } from "react";

import { BringFiles } from "../../controls/BringFiles";
import { bundle, MESH_FILES, named, PICTURE_FILES } from "../../api/bundle";
import { api } from "../../api/client";
import type { PictureUse, ProjectView } from "../../api/types";
import { Packed } from "./Packed";
import { AskUnit } from "../../controls/AskUnit";
import { useDraft } from "../../controls/useDraft";
import { bring, commit, say } from "../../state/actions";
import { shownNumber } from "../../state/document";
import { useStore } from "../../state/store";

export function Pictures({ project }: { project: ProjectView }) {
  const { pictures } = project.document.intake;
  return (
    <section className="group">
      <div className="panel-head">
        <span>Pictures made elsewhere</span>
        <BringFiles
          label="Picture file"
          accept={PICTURE_FILES}
          take={([file]) => file && void bring((p) => api.bringPicture(p.id, p.revision, file))}
        >
          {(props) => (
            <Button variant="default" {...props}>
              Bring one in
            </Button>
          )}
        </BringFiles>
      </div>
      {pictures.length === 0 && (
        <p className="hint">
          An occlusion, ID or normal picture made elsewhere can stand in for what is measured here.
        </p>
      )}
      {pictures.map((p) => (
        <OnePicture key={p.hash} picture={p} sheets={project.piece.sheets.map((s) => s.name)} />
      ))}
    </section>
  );
}

function OnePicture({ picture, sheets }: { picture: PictureUse; sheets: string[] }) {
  const catalog = useStore((s) => s.catalog);
  const purposes = [
    { value: "", label: "nothing yet" },
    { value: "parts", label: "ID picture: parts" },
    { value: "mask", label: "steps of masks" },
    { value: "normal", label: "normals" },
    { value: "curvature", label: "edges and recesses: curvature" },
    ...catalog
      .filter((e) => e.family === "reading")
      .map((e) => ({ value: e.kind, label: `in place of ${e.label.toLowerCase()}` })),
  ];
  const set = (change: Partial<PictureUse>) => void commit({ edit: "set_picture", picture: { ...picture, ...change } });
  const number = picture.purpose !== "" && !["parts", "normal", "mask"].includes(picture.purpose);
  return (
    <div className="block" data-picture={picture.file}>
      <div className="row">
        <Tooltip label={`${picture.size.join(" × ")} texels`}>
          <b className="cut">{picture.file}</b>
        </Tooltip>
        <Tooltip label="Take it off">
          <ActionIcon
            aria-label={`Take off ${picture.file}`}
            onClick={() => void commit({ edit: "remove_picture", picture: picture.hash })}
          >
            <IconTrash size={14} />
          </ActionIcon>
        </Tooltip>
      </div>
      <div className="row">
        <span>Used for</span>
        <Select
          w={164}
          aria-label={`What ${picture.file} is for`}
          data={purposes}
          value={picture.purpose}
          onChange={(v) => v !== null && set({ purpose: v })}
          comboboxProps={{ width: 220, position: "bottom-end" }}
        />
      </div>
      {(picture.purpose === "" || picture.purpose === "mask") && <Packed picture={picture} />}
      {sheets.length > 1 && picture.purpose !== "" && picture.purpose !== "mask" && (
        <div className="row">
          <span>On sheet</span>
          <Select
            w={164}
            aria-label={`Sheet of ${picture.file}`}
            data={[{ value: "", label: "all of them" }, ...sheets]}
            value={picture.sheet ?? ""}
            onChange={(v) => v !== null && set({ sheet: v })}
          />
        </div>
      )}
      {number && (
        <>
          <div className="row">
            <span>Taken from</span>
            <Select
              w={100}
              aria-label={`Channel of ${picture.file}`}
              data={["grey", "red", "green", "blue", "alpha"]}
              value={picture.channel}
              onChange={(v) => v !== null && set({ channel: v as PictureUse["channel"] })}
            />
          </div>
          <Switch
            label="The other way round"
            aria-label="The other way round"
            checked={picture.invert}
            onChange={(e) => set({ invert: e.currentTarget.checked })}
          />
          <Switch
            label="Its numbers are sRGB-encoded"
            aria-label="Its numbers are sRGB-encoded"
            checked={picture.encoded}
            onChange={(e) => set({ encoded: e.currentTarget.checked })}
          />
        </>
      )}
      {picture.purpose === "normal" && (
        <Switch
          label="Green points down (Y−)"
          aria-label="Green points down (Y−)"
          checked={picture.green_down}
          onChange={(e) => set({ green_down: e.currentTarget.checked })}
        />
      )}
    </div>
  );
}

export function FinerMesh({ project }: { project: ProjectView }) {
  const finer = project.document.intake.finer;
  const [file, setFile] = useState<File | null>(null);
  const take = (unit: string) => {
    setFile(null);
    if (file) void bring((p) => api.bringFiner(p.id, p.revision, file, unit));
  };
  const missed = project.piece.missed ?? 0;
  return (
    <section className="group">
      <div className="panel-head">
        <span>Relief from a finer mesh</span>
        <BringFiles
          multiple
          label="Finer mesh file"
          accept={MESH_FILES}
          take={(files) => void bundle(named(files)).then(setFile, say)}
        >
          {(props) => (
            <Button variant="default" {...props}>
              Bring one in
            </Button>
          )}
        </BringFiles>
      </div>
      {file && <AskUnit file={file} verb="Take its relief" close={() => setFile(null)} start={take} />}
      {!finer && (
        <p className="hint">A finer mesh of the same thing, in the same place: its normals are laid on the piece.</p>
      )}
      {finer && (
        <div className="block first">
          <div className="row">
            <b className="cut">{finer.mesh.file}</b>
            <Tooltip label="Take it off">
              <ActionIcon
                aria-label="Take off the finer mesh"
                onClick={() => void commit({ edit: "set_finer", finer: null })}
              >
                <IconTrash size={14} />
              </ActionIcon>
            </Tooltip>
          </div>
          <Cage
            value={project.piece.cage ?? 0}
            keep={(cage) => void commit({ edit: "set_finer", finer: { ...finer, cage } })}
          />
          <span className={missed > 0.001 ? "state-missing" : "soft"}>
            {missed > 0.001
              ? `${(missed * 100).toFixed(1)} % of the texels met nothing within the cage and keep the piece’s own normal. Widen it, or check that both meshes lie in the same place.`
              : "Met everywhere within the cage."}
          </span>
        </div>
      )}
    </section>
  );
}

function Cage({ value, keep }: { value: number; keep: (v: number) => void }) {
  const [text, setText] = useDraft<number, string | number>(value, shownNumber);
  const done = () => {
    const next = Number(text);
    if (Number.isFinite(next) && next > 0 && shownNumber(next) !== shownNumber(value)) keep(next);
    else setText(shownNumber(value));
  };
  return (
    <div className="row">
      <span>Looked for within</span>
      <NumberInput
        className="value"
        w={90}
        aria-label="Cage distance"
        value={text}
        onChange={setText}
        onBlur={done}
        onKeyDown={(e) => e.key === "Enter" && done()}
        rightSection={<span className="soft mono">mm</span>}
        rightSectionPointerEvents="none"
      />
    </div>
  );
}
