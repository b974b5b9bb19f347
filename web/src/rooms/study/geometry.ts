// Where things of the board lie: in points on it, in pixels on the screen.
import type { BoardItem, End, Lies } from "../../api/types";

export type Point = [number, number];

/** What the next click on the board does. */
export type Tool = { kind: "none" } | { kind: "arrow"; from: Point | null };

/** What of the board is seen: the point in the upper left corner, and pixels to a point. */
export interface Seen {
  from: Point;
  scale: number;
}

/** Something that lies by its middle; arrows go from one place to another. */
export type Lying = Extract<BoardItem, { lies: Lies }>;
export type Arrow = Extract<BoardItem, { kind: "arrow" }>;
export type BoardPicture = Extract<BoardItem, { kind: "picture" }>;

export const isLying = (item: BoardItem): item is Lying => item.kind !== "arrow";

/** Heights of what is as high as its words, in points, by id. */
export type Heights = Record<string, number>;

const WHOLE: [number, number, number, number] = [0, 0, 1, 1];
export const cropOf = (p: BoardPicture): [number, number, number, number] => p.crop ?? WHOLE;

/** Height in points. */
export function heightOf(item: Lying, heights: Heights): number {
  if (item.kind === "frame") return item.height;
  if (item.kind === "note") return heights[item.id] ?? 20;
  const [left, top, right, bottom] = cropOf(item);
  const [w, h] = item.size;
  return (item.lies.width * (bottom - top) * h) / ((right - left) * w);
}

const turned = ([x, y]: Point, degrees: number): Point => {
  const a = (degrees / 180) * Math.PI;
  return [x * Math.cos(a) - y * Math.sin(a), x * Math.sin(a) + y * Math.cos(a)];
};

/** A way on the board as a way on something that is turned. */
export const turnedBack = (way: Point, lies: Lies): Point => turned(way, -(lies.turn ?? 0));
export const turnedWith = (way: Point, lies: Lies): Point => turned(way, lies.turn ?? 0);

/** A place on something, as shares from its upper left corner; of a picture, of the whole of it. */
export function shareAt(item: Lying, heights: Heights, [x, y]: Point): Point {
  const [dx, dy] = turnedBack([x - item.lies.at[0], y - item.lies.at[1]], item.lies);
  const share: Point = [dx / item.lies.width + 0.5, dy / heightOf(item, heights) + 0.5];
  if (item.kind !== "picture") return share;
  const [left, top, right, bottom] = cropOf(item);
  return [left + share[0] * (right - left), top + share[1] * (bottom - top)];
}

/** The other way round: the point of such shares. */
export function pointAt(item: Lying, heights: Heights, share: Point): Point {
  let [u, v] = share;
  if (item.kind === "picture") {
    const [left, top, right, bottom] = cropOf(item);
    [u, v] = [(u - left) / (right - left), (v - top) / (bottom - top)];
  }
  const [dx, dy] = turnedWith([(u - 0.5) * item.lies.width, (v - 0.5) * heightOf(item, heights)], item.lies);
  return [item.lies.at[0] + dx, item.lies.at[1] + dy];
}

/** Where an end of an arrow lies. */
export function endAt(end: End, board: BoardItem[], heights: Heights): Point {
  const item = board.find((i) => i.id === end.item);
  return item && isLying(item) ? pointAt(item, heights, end.at) : [end.at[0], end.at[1]];
}

/** Where a line from the middle of something leaves it. */
export function leaves(item: Lying, heights: Heights, to: Point): Point {
  const [x, y] = item.lies.at;
  const way = turnedBack([to[0] - x, to[1] - y], item.lies);
  const half: Point = [item.lies.width / 2 + 6, heightOf(item, heights) / 2 + 6];
  const by = Math.min(...([0, 1] as const).map((i) => (way[i] === 0 ? Infinity : half[i] / Math.abs(way[i]))), 1);
  const [dx, dy] = turnedWith([way[0] * by, way[1] * by], item.lies);
  return [x + dx, y + dy];
}

/** What lies topmost at a place. */
export const itemAt = (board: BoardItem[], heights: Heights, at: Point): Lying | undefined =>
  board.filter(isLying).findLast((item) => {
    const [dx, dy] = turnedBack([at[0] - item.lies.at[0], at[1] - item.lies.at[1]], item.lies);
    return Math.abs(dx) <= item.lies.width / 2 && Math.abs(dy) <= heightOf(item, heights) / 2;
  });

/** The box around some things: least and greatest corner; none of nothing. */
export function around(items: BoardItem[], board: BoardItem[], heights: Heights): [Point, Point] | null {
  const corners = items.flatMap((item): Point[] => {
    if (!isLying(item)) return [endAt(item.from, board, heights), endAt(item.to, board, heights)];
    // What is turned reaches no further than its diagonal.
    const [x, y] = item.lies.at;
    const r = Math.hypot(item.lies.width, heightOf(item, heights)) / 2;
    const [w, h] = (item.lies.turn ?? 0) === 0 ? [item.lies.width / 2, heightOf(item, heights) / 2] : [r, r];
    return [
      [x - w, y - h],
      [x + w, y + h],
    ];
  });
  if (corners.length === 0) return null;
  const [xs, ys] = [corners.map((c) => c[0]), corners.map((c) => c[1])];
  return [
    [Math.min(...xs), Math.min(...ys)],
    [Math.max(...xs), Math.max(...ys)],
  ];
}

/** What shows a box whole, with some room around it. */
export function showing([[left, top], [right, bottom]]: [Point, Point], [w, h]: Point): Seen {
  const room = 48;
  const scale = Math.min(1, (w - 2 * room) / Math.max(1, right - left), (h - 2 * room) / Math.max(1, bottom - top));
  const kept = Math.max(0.05, scale);
  return { from: [(left + right - w / kept) / 2, (top + bottom - h / kept) / 2], scale: kept };
}

/** The sizes that the server has pictures in, along the longer side. */
const SIDES = [256, 1024, 4096];

/** The side that shows a picture as sharply as it is seen. */
export function sideOf(p: BoardPicture, scale: number): number {
  const [left, , right] = cropOf(p);
  const across = (p.lies.width / (right - left)) * scale * window.devicePixelRatio;
  const longer = across * Math.max(1, p.size[1] / p.size[0]);
  return SIDES.find((side) => side >= longer) ?? 4096;
}

/** The same item moved. */
export function moved<T extends BoardItem>(item: T, [dx, dy]: Point): T {
  if (isLying(item)) {
    const [x, y] = item.lies.at;
    return { ...item, lies: { ...item.lies, at: [x + dx, y + dy] } };
  }
  const free = (end: End): End => (end.item === undefined ? { at: [end.at[0] + dx, end.at[1] + dy] } : end);
  return { ...item, from: free(item.from), to: free(item.to) };
}

/** The same item larger or smaller about its middle. */
export function sized(item: Lying, by: number): Lying {
  const fit = (v: number) => Math.min(20_000, Math.max(20, v * by));
  const lies = { ...item.lies, width: fit(item.lies.width) };
  return item.kind === "frame" ? { ...item, lies, height: fit(item.height) } : { ...item, lies };
}

/** The same item turned further; within a step of lying straight it does. */
export function turnedBy(item: Lying, degrees: number): Lying {
  const turn = (((item.lies.turn ?? 0) + degrees + 540) % 360) - 180;
  const { at, width } = item.lies;
  return { ...item, lies: Math.abs(turn) < 1 ? { at, width } : { at, width, turn } };
}

/** A picture cut anew; what is left of it stays where it lies, and as large. */
export function cropped(p: BoardPicture, crop: [number, number, number, number]): BoardPicture {
  const was = cropOf(p);
  const scale = p.lies.width / (was[2] - was[0]);
  const high = (scale * p.size[1]) / p.size[0];
  const middle = (c: [number, number, number, number]): Point => [
    ((c[0] + c[2]) / 2) * scale,
    ((c[1] + c[3]) / 2) * high,
  ];
  const [a, b] = [middle(was), middle(crop)];
  const [dx, dy] = turnedWith([b[0] - a[0], b[1] - a[1]], p.lies);
  const [x, y] = p.lies.at;
  const lies = { ...p.lies, at: [x + dx, y + dy] as Point, width: (crop[2] - crop[0]) * scale };
  if (!crop.every((v, i) => v === WHOLE[i])) return { ...p, lies, crop };
  const rest = { ...p, lies };
  delete rest.crop;
  return rest;
}
