// What is asked of colours by the page alone.
import { converter } from "culori";

import type { Swatch } from "../api/types";

const toOklab = converter("oklab");

/** By lightness: found colours make a ramp that runs one way. */
export const darkToLight = (colors: Swatch[]): Swatch[] =>
  [...colors].sort((a, b) => (toOklab(a.color)?.l ?? 0) - (toOklab(b.color)?.l ?? 0));

/** Colours as one value, as the core writes them. */
export const writePalette = (colors: Swatch[]): string => colors.map((c) => `${c.color} ${c.weight}`).join(", ");

/** The colours of such a value. */
export const readPalette = (text: string): Swatch[] =>
  text.split(", ").map((part) => {
    const [color = "", weight = "1"] = part.split(" ");
    return { color, weight: Number(weight) };
  });
