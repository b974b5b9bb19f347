// Handles on the piece: dots that a hand takes hold of, seen through everything.
import {
  BufferGeometry,
  Float32BufferAttribute,
  type LineBasicMaterial,
  Points,
  PointsMaterial,
  type Scene,
  type Vector2,
  type Vector3,
} from "three";

/** The colour of what a hand may take hold of. */
export const HELD = 0x2e7d6e;
/** How near to a handle the pointer takes it, in pixels. */
export const NEAR = 11;

export class Handles {
  private readonly rim: Points;
  private readonly core: Points;

  /** As wide as so many pixels; full ones are all of one colour. */
  constructor(scene: Scene, size: number, { full = false } = {}) {
    const dot = (color: number, across: number, order: number) => {
      const points = new Points(
        this.rim?.geometry ?? new BufferGeometry(),
        seenThrough(new PointsMaterial({ color, size: across, sizeAttenuation: false })),
      );
      points.renderOrder = order;
      points.visible = false;
      points.frustumCulled = false;
      scene.add(points);
      return points;
    };
    this.rim = dot(full ? 0xffffff : HELD, size, 14);
    this.core = dot(full ? HELD : 0xffffff, size - 4, 15);
  }

  show(places: Vector3[]): void {
    this.rim.visible = this.core.visible = places.length > 0;
    if (places.length > 0) setPoints(this.rim.geometry, places);
  }
}

/** Which of some places of the view a pointer takes hold of. */
export function nearest(px: Vector2, places: Vector2[], near = NEAR): number | null {
  let found: number | null = null;
  let least = near;
  places.forEach((at, i) => {
    const far = at.distanceTo(px);
    if (far <= least) [found, least] = [i, far];
  });
  return found;
}

/** Places of the view in words, for whoever watches from outside. */
export const told = (places: Vector2[]): string => places.map((p) => `${Math.round(p.x)},${Math.round(p.y)}`).join(" ");

export const seenThrough = <M extends LineBasicMaterial | PointsMaterial>(material: M): M => {
  material.depthTest = false;
  material.transparent = true;
  material.toneMapped = false;
  return material;
};

export const setPoints = (geometry: BufferGeometry, points: Vector3[]): void => {
  geometry.setAttribute(
    "position",
    new Float32BufferAttribute(
      points.flatMap((p) => p.toArray()),
      3,
    ),
  );
};

/** Whether a key belongs to what has the focus. */
export const elsewhere = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  target.closest("input, textarea, select, [role=slider], [role=option], [role=dialog]") !== null;
