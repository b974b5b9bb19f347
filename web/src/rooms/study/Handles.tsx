// What the thing that is picked is sized, turned and cut by.
import type { PointerEvent } from "react";

import { follow } from "../../controls/follow";
import {
  type BoardPicture,
  cropOf,
  cropped,
  heightOf,
  type Heights,
  type Lying,
  type Point,
  turnedBack,
  turnedWith,
} from "./geometry";

interface Props {
  item: Lying;
  heights: Heights;
  scale: number;
  cutting: boolean;
  under: (e: { clientX: number; clientY: number }) => Point;
  attempt: (item: Lying) => void;
  /** What was attempted stays. */
  keep: () => void;
}

const SIDES = [
  { side: 0, label: "Cut from the left", at: [0, 0.5] },
  { side: 1, label: "Cut from the top", at: [0.5, 0] },
  { side: 2, label: "Cut from the right", at: [1, 0.5] },
  { side: 3, label: "Cut from the bottom", at: [0.5, 1] },
] as const;
/** The least that is left of a picture, as a share. */
const LEAST = 0.02;

export function Handles({ item, heights, scale, cutting, under, attempt, keep }: Props) {
  const { at, width, turn = 0 } = item.lies;
  const height = heightOf(item, heights);
  const px = 1 / scale;
  const way = (e: { clientX: number; clientY: number }) => {
    const [x, y] = under(e);
    return turnedBack([x - at[0], y - at[1]], item.lies);
  };
  // The corner that is not held stays where it is.
  const size = (e: PointerEvent) => {
    const start: Point = [-width / 2, -height / 2];
    const fixed = turnedWith(start, item.lies);
    follow(
      e,
      (to) => {
        const [x, y] = way(to);
        const wide = Math.min(20_000, Math.max(20, x - start[0]));
        const high = Math.min(20_000, Math.max(20, y - start[1]));
        const tall = item.kind === "frame" ? high : (height * wide) / width;
        const [dx, dy] = turnedWith([wide / 2, (item.kind === "note" ? height : tall) / 2], item.lies);
        const middle: Point = [at[0] + fixed[0] + dx, at[1] + fixed[1] + dy];
        const lies = { ...item.lies, at: middle, width: wide };
        attempt(item.kind === "frame" ? { ...item, lies, height: tall } : { ...item, lies });
      },
      (moved) => moved && keep(),
    );
  };
  const spin = (e: PointerEvent) =>
    follow(
      e,
      (to) => {
        const [x, y] = under(to);
        const angle = (Math.atan2(x - at[0], at[1] - y) / Math.PI) * 180;
        // With Shift in steps of 15 degrees; near to straight it is straight.
        const turned = to.shiftKey ? Math.round(angle / 15) * 15 : Math.abs(angle) < 2 ? 0 : angle;
        attempt({ ...item, lies: turned === 0 ? { at, width } : { at, width, turn: turned } });
      },
      (moved) => moved && keep(),
    );
  const cut = (e: PointerEvent, picture: BoardPicture, side: 0 | 1 | 2 | 3) => {
    const crop = cropOf(picture);
    follow(
      e,
      (to) => {
        const [x, y] = way(to);
        const share = side % 2 === 0 ? x / width + 0.5 : y / height + 0.5;
        const [low, high] = side % 2 === 0 ? [crop[0], crop[2]] : [crop[1], crop[3]];
        const next: [number, number, number, number] = [...crop];
        const v = low + share * (high - low);
        next[side] = side < 2 ? Math.min(high - LEAST, Math.max(0, v)) : Math.max(low + LEAST, Math.min(1, v));
        attempt(cropped(picture, next));
      },
      (moved) => moved && keep(),
    );
  };
  const handle = (act: (e: PointerEvent) => void) => (e: PointerEvent) => {
    e.stopPropagation();
    e.preventDefault();
    act(e);
  };
  const dot = (x: number, y: number) => ({
    left: x * width,
    top: y * height,
    transform: `translate(-50%, -50%) scale(${px})`,
  });
  return (
    <div
      className="board-handles"
      style={{ left: at[0], top: at[1], width, height, transform: `translate(-50%, -50%) rotate(${turn}deg)` }}
    >
      {cutting && item.kind === "picture" ? (
        SIDES.map(({ side, label, at: [x, y] }) => (
          <span
            key={side}
            className={`board-cut ${side % 2 === 0 ? "upright" : "flat"}`}
            title={label}
            style={dot(x, y)}
            onPointerDown={handle((e) => cut(e, item, side))}
          />
        ))
      ) : (
        <>
          <span className="board-corner" title="Size" style={dot(1, 1)} onPointerDown={handle(size)} />
          {item.kind !== "frame" && (
            <span
              className="board-knob"
              title="Turn; Shift in steps"
              style={{ left: width / 2, top: -22 * px, transform: `translate(-50%, -50%) scale(${px})` }}
              onPointerDown={handle(spin)}
            />
          )}
        </>
      )}
    </div>
  );
}
