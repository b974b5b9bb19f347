// Two states of the piece in one view: wiped against one another, or side by side.
import { type Material, type Mesh, type PerspectiveCamera, type Scene, Vector2, type WebGLRenderer } from "three";

interface Drawn {
  renderer: WebGLRenderer;
  scene: Scene;
  camera: PerspectiveCamera;
  mesh: Mesh;
}

/** Draws the piece as it is, and left of the edge, a share of the breadth, in the other material; without an edge each has a half of its own. */
export function drawBoth({ renderer, scene, camera, mesh }: Drawn, other: Material, wipe: number | null): void {
  const { x: width, y: height } = renderer.getSize(new Vector2());
  const edge = Math.round(width * (wipe ?? 0.5));
  const present = mesh.material;
  const half = (left: number, breadth: number) => {
    renderer.setScissor(left, 0, breadth, height);
    if (wipe === null) {
      // The middle of the whole view in half its breadth: both halves look from one place.
      renderer.setViewport(left, 0, breadth, height);
      camera.setViewOffset(width, height, (width - breadth) / 2, 0, breadth, height);
    }
    renderer.render(scene, camera);
  };
  renderer.setScissorTest(true);
  half(edge, width - edge);
  mesh.material = other;
  half(0, edge);
  mesh.material = present;
  renderer.setScissorTest(false);
  renderer.setViewport(0, 0, width, height);
  if (wipe === null) camera.clearViewOffset();
}
