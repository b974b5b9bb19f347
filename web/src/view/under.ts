// What of the piece lies under a place of the view, for what is drawn and laid on it by hand.
import { type Mesh, type PerspectiveCamera, Raycaster, type Scene, Vector2, Vector3 } from "three";
import { acceleratedRaycast, MeshBVH } from "three-mesh-bvh";

/** The view that a hand works in. */
export interface View {
  host: HTMLElement;
  canvas: HTMLCanvasElement;
  scene: Scene;
  camera: PerspectiveCamera;
  mesh: () => Mesh | null;
  invalidate: () => void;
}

/** A place of the surface, and its unit normal. */
export interface Place {
  at: Vector3;
  normal: Vector3;
}

/** How far the pointer may stray in a click, in pixels. */
export const STRAY = 4;

export class Under {
  private readonly caster = new Raycaster();

  constructor(private readonly view: View) {
    this.caster.firstHitOnly = true;
  }

  /** Where an event is over the view. */
  pixels(event: PointerEvent): Vector2 {
    const box = this.view.canvas.getBoundingClientRect();
    return new Vector2(event.clientX - box.left, event.clientY - box.top);
  }

  /** Where a place of the piece is seen, in pixels. */
  seen(at: Vector3): Vector2 {
    const { canvas, camera } = this.view;
    const p = at.clone().project(camera);
    return new Vector2(((p.x + 1) / 2) * canvas.clientWidth, ((1 - p.y) / 2) * canvas.clientHeight);
  }

  /** How long a pixel is there, in mm. */
  length(at: Vector3): number {
    const { canvas, camera } = this.view;
    return (2 * camera.position.distanceTo(at) * Math.tan((camera.fov * Math.PI) / 360)) / canvas.clientHeight;
  }

  /** What of the piece lies under a place of the view. */
  place(px: Vector2): Place | null {
    this.aim(px);
    return this.hit();
  }

  /** Where the line of sight through a place of the view meets a plane. */
  onPlane(px: Vector2, { at, normal }: Place): Vector3 | null {
    this.aim(px);
    const { origin, direction } = this.caster.ray;
    const steep = direction.dot(normal);
    if (Math.abs(steep) < 0.05) return null;
    const far = at.clone().sub(origin).dot(normal) / steep;
    return far > 0 ? origin.clone().addScaledVector(direction, far) : null;
  }

  /** The surface next to a place, looked for along its normal as far as `reach` mm to both sides. */
  beside({ at, normal }: Place, reach: number): Place | null {
    const from = at.clone().addScaledVector(normal, reach);
    this.caster.set(from, normal.clone().negate());
    this.caster.far = reach * 2;
    const found = this.hit();
    this.caster.far = Infinity;
    return found;
  }

  private aim(px: Vector2): void {
    const { canvas, camera } = this.view;
    const at = new Vector2((px.x / canvas.clientWidth) * 2 - 1, 1 - (px.y / canvas.clientHeight) * 2);
    this.caster.setFromCamera(at, camera);
  }

  private hit(): Place | null {
    const mesh = this.view.mesh();
    if (!mesh) return null;
    // The order of its triangles stays: others draw by it.
    mesh.geometry.boundsTree ??= new MeshBVH(mesh.geometry, { indirect: true });
    mesh.raycast = acceleratedRaycast;
    const hit = this.caster.intersectObject(mesh)[0];
    const normal = hit?.normal ?? hit?.face?.normal;
    return hit && normal ? { at: hit.point, normal: normal.clone().normalize() } : null;
  }
}

/** Hears of the pointer over the view before whatever turns the camera does, until it is told to stop. */
export function firstToHear(
  canvas: HTMLCanvasElement,
  hear: Record<"down" | "move" | "up", (event: PointerEvent) => void>,
  signal: AbortSignal,
): void {
  const first = { capture: true, signal };
  canvas.addEventListener("pointerdown", hear.down, first);
  canvas.addEventListener("pointermove", hear.move, first);
  canvas.addEventListener("pointerup", hear.up, first);
  canvas.addEventListener("pointercancel", hear.up, first);
}
