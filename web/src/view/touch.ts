// Clicks on the piece that are no drags of the camera.
import { Vector2 } from "three";

import { comparing, useStore } from "../state/store";
import { STRAY } from "./under";

/** Calls `take` with where the camera sees what was clicked, −1…1, and whether that is in the left half; `over` with where the pointer is. */
export function touched(
  canvas: HTMLCanvasElement,
  take: (at: Vector2, left: boolean) => void,
  over: (at: Vector2) => void,
): void {
  let pressed = new Vector2();
  const placeOf = (event: PointerEvent): [Vector2, number] => {
    const box = canvas.getBoundingClientRect();
    const [x, y] = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
    return [new Vector2(across(x) * 2 - 1, 1 - y * 2), x];
  };
  canvas.addEventListener("pointermove", (event) => over(placeOf(event)[0]));
  canvas.addEventListener("pointerdown", (event) => {
    pressed = new Vector2(event.clientX, event.clientY);
  });
  canvas.addEventListener("pointerup", (event) => {
    if (Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) > STRAY) return;
    const [at, x] = placeOf(event);
    take(at, x < 0.5);
  });
}

/** Where a place across the view lies in what the camera sees: side by side, each half shows the middle. */
function across(share: number): number {
  const s = useStore.getState();
  return s.beside && comparing(s) !== null ? (share % 0.5) + 0.25 : share;
}
