// The Surface room: what the piece is made of on the left, what is measured of it on the right.
import { useStore } from "../../state/store";
import { Findings } from "./Findings";
import { Measurements } from "./Measurements";
import { Mending } from "./Mending";
import { Mesh } from "./Mesh";
import { Parts } from "./Parts";
import { FinerMesh, Pictures } from "./Pictures";

export function SurfaceLeft() {
  const project = useStore((s) => s.project);
  if (!project) return null;
  return (
    <>
      <Mesh project={project} />
      <Findings findings={project.piece.findings} />
      <Mending project={project} />
      <Parts project={project} />
      <Pictures project={project} />
      <FinerMesh project={project} />
    </>
  );
}

export function SurfaceRight() {
  const project = useStore((s) => s.project);
  return project && <Measurements project={project} />;
}
