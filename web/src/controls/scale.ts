// Between a setting's value and the place on its slider.
import type { ParamSpec } from "../api/types";

type Range = Pick<ParamSpec, "min" | "max" | "log" | "type">;

/** A logarithmic slider that starts at 0 bends like the logarithm of 1 + what it shows of a thousandth of its range. */
const bend = (spec: Range) => (spec.min > 0 ? 0 : spec.max / 1000);

export function toTrack(spec: Range, value: number): number {
  if (!spec.log) return (value - spec.min) / (spec.max - spec.min);
  const b = bend(spec);
  return Math.log((value + b) / (spec.min + b)) / Math.log((spec.max + b) / (spec.min + b));
}

export function fromTrack(spec: Range, t: number): number {
  const b = bend(spec);
  const value = spec.log
    ? (spec.min + b) * Math.pow((spec.max + b) / (spec.min + b), t) - b
    : spec.min + t * (spec.max - spec.min);
  const inside = Math.min(spec.max, Math.max(spec.min, value));
  return spec.type === "integer" ? Math.round(inside) : Number(inside.toPrecision(4));
}

export const step = (spec: Range) =>
  spec.type === "integer" ? 1 / Math.max(1, Math.min(spec.max - spec.min, 1000)) : 0.005;
