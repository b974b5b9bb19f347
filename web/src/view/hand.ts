// A hand's breadth of the piece before the camera: what a stranger would bend down to.
import { type PerspectiveCamera, Raycaster, type Intersection, type Object3D, type Vector2, type Vector3 } from "three";
import type { OrbitControls } from "three/addons/controls/OrbitControls.js";

/** What the view then shows from top to bottom, in mm; of a small piece less. */
const HAND = 90;

/** What of a thing the camera sees at a place of the view, −1…1. */
export function seenAt(at: Vector2, camera: PerspectiveCamera, thing: Object3D | null): Intersection | undefined {
  if (!thing) return undefined;
  const caster = new Raycaster();
  caster.setFromCamera(at, camera);
  return caster.intersectObject(thing)[0];
}

/** Brings the camera to a spot of a piece of that radius; it looks the way it did. */
export function comeNear(spot: Vector3, radius: number, camera: PerspectiveCamera, controls: OrbitControls): void {
  const look = camera.position.clone().sub(controls.target).normalize();
  const away = Math.min(HAND, radius / 2) / 2 / Math.tan((camera.fov * Math.PI) / 360);
  controls.minDistance = Math.min(controls.minDistance, away / 2);
  controls.target.copy(spot);
  camera.position.copy(spot).addScaledVector(look, away);
  controls.update();
}
