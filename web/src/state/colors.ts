// What is asked of colours by the page alone.
import { converter } from "culori";

import type { Swatch } from "../api/types";

const toOklab = converter("oklab");

/** By lightness: found colours make a ramp that runs one way. */
export const darkToLight = (colors: Swatch[]): Swatch[] =>
  [...colors].sort((a, b) => (toOklab(a.color)?.l ?? 0) - (toOklab(b.color)?.l ?? 0));
