// Places of the piece as the rows of numbers that strokes are sent as.
import type { State } from "../state/store";
import { hand } from "../state/brush";
import type { Place, View } from "./under";

/** A place with how hard the pen is pressed, 0…1, when, in ms, and how far it is laid down, 0…1. */
export function rowOf({ at, normal }: Place, pressure: number, time: number, tilt = 0): number[] {
  const row = [...at.toArray().map(places(3)), ...normal.toArray().map(places(4)), pressure, time];
  return tilt > 0 ? [...row, places(3)(tilt)] : row;
}

/** Rows across the middle of the piece, if that is asked for. */
export function mirrored(rows: number[][], s: State, view: View): number[][] | null {
  const axis = ["x", "y", "z"].indexOf(hand(s).mirror);
  const box = view.mesh()?.geometry.boundingBox;
  if (axis < 0 || !box) return null;
  const middle = box.min.getComponent(axis) + box.max.getComponent(axis);
  return rows.map((row) => row.map((v, i) => (i === axis ? middle - v : i === axis + 3 ? -v : v)));
}

/** Numbers to so many places: what is finer nobody draws. */
const places = (count: number) => (v: number) => Number(v.toFixed(count));
