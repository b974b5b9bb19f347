// How a still is wished for that shows the piece as the view does.
import type { StillSettings } from "../api/types";
import { useStore } from "../state/store";

/** From where one looks, in the light that stands there; `null` before there is a view. */
export function asSeen(height: number, samples: number): StillSettings | null {
  const { camera, light, turn, brightness, rim, exposure, surround, ground, moved } = useStore.getState();
  if (!camera) return null;
  const { eye, target, fov, aspect } = camera;
  const width = Math.round(height * Math.min(2, Math.max(0.5, aspect)));
  const place = { eye, target, fov, width, height, samples };
  return {
    ...place,
    light,
    turn,
    brightness,
    rim,
    exposure,
    surround,
    ground,
    relief: moved,
    denoise: true,
    turntable: 1,
  };
}
