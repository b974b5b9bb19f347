// The mesh: its facts, how it is laid out, and another version of it.
import { Button, Tooltip } from "@mantine/core";
import { useState } from "react";

import { bundle, MESH_FILES, named } from "../../api/bundle";
import { api } from "../../api/client";
import type { ProjectView } from "../../api/types";
import { BringFiles } from "../../controls/BringFiles";
import { AskUnit } from "../../controls/AskUnit";
import { bring, say, show } from "../../state/actions";
import { percent, shownNumber } from "../../state/document";
import { useStore } from "../../state/store";
import { Fact } from "./Fact";

export function Mesh({ project }: { project: ProjectView }) {
  const { piece } = project;
  const { layout } = piece;
  const shells = useStore((s) => s.shown === "shells");
  const sheets = piece.sheets.map((s) => s.name);
  return (
    <>
      <div className="panel-head">
        <span>Mesh</span>
        <Swap />
      </div>
      <div className="block first">
        <Fact name="File" value={piece.file} />
        <Fact
          name="Size"
          value={`${piece.size.map((v) => Math.round(v)).join(" × ")} mm`}
          help="Width, height and depth. The ruler in the view is 300 mm long."
        />
        <Fact name="Triangles" value={piece.triangles.toLocaleString("en")} />
        <div className="row fact">
          <Tooltip label="Connected bits of mesh: one bolt, one plank.">
            <span className="soft">Shells</span>
          </Tooltip>
          <span className="row" style={{ gap: 8 }}>
            {piece.shells.toLocaleString("en")}
            <Button
              variant={shells ? "filled" : "default"}
              aria-pressed={shells}
              onClick={() => show(shells ? "lit" : "shells")}
            >
              Show shells
            </Button>
          </span>
        </div>
        <Fact
          name={sheets.length > 1 ? `${sheets.length} sheets` : "Sheet"}
          value={sheets.length > 3 ? `${sheets.slice(0, 2).join(", ")} … ${sheets.at(-1)}` : sheets.join(", ")}
          help="UV squares, numbered as UDIM does. Each gets image files of its own."
        />
        <Fact name="UV charts" value={piece.charts.toLocaleString("en")} />
        <Fact
          name="Density"
          value={`${shownNumber(layout.density)} texels/mm`}
          help={`At the draft size. A twentieth of the surface has fewer than ${shownNumber(layout.coarse)}, a twentieth more than ${shownNumber(layout.fine)} texels per mm.`}
        />
        <Fact
          name="Stretch"
          value={`×${layout.stretch.toFixed(2)}, worst ×${layout.worst_stretch.toFixed(2)}`}
          help="How much longer than wide a square on the surface becomes in the UVs: the mean, and what a twentieth of the surface is stretched by or more."
        />
        <Fact name="Square in use" value={`${Math.round(layout.filled * 100)} %`} />
        <Fact
          name="Covered twice"
          value={percent(layout.overlap)}
          help="Share of the texels that more than one triangle covers."
        />
      </div>
    </>
  );
}

function Swap() {
  const [file, setFile] = useState<File | null>(null);
  const swap = (unit: string) => {
    setFile(null);
    if (file) void bring((p) => api.swapMesh(p.id, p.revision, file, unit));
  };
  return (
    <>
      <BringFiles
        multiple
        label="Other mesh file"
        accept={MESH_FILES}
        take={(files) => void bundle(named(files)).then(setFile, say)}
      >
        {(props) => (
          <Button variant="default" {...props}>
            Swap the mesh
          </Button>
        )}
      </BringFiles>
      {file && <AskUnit file={file} verb="Swap it" close={() => setFile(null)} start={swap} />}
    </>
  );
}
