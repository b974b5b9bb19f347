// The arrows of the board, over all that lies on it.
import type { KeyboardEvent, PointerEvent } from "react";

import type { BoardItem } from "../../api/types";
import { type Arrow, endAt, type Heights, isLying, leaves, type Point } from "./geometry";

interface Props {
  board: BoardItem[];
  heights: Heights;
  scale: number;
  picked: string[];
  /** One that is being drawn. */
  drawing: [Point, Point] | null;
  pick: (id: string, e: PointerEvent | null) => void;
  keys: (e: KeyboardEvent) => void;
}

const isArrow = (item: BoardItem): item is Arrow => item.kind === "arrow";

export function Arrows({ board, heights, scale, picked, drawing, pick, keys }: Props) {
  // As thin and as small on the screen however the board is seen.
  const px = 1 / scale;
  const line = ([from, to]: [Point, Point]) => (
    <>
      <line x1={from[0]} y1={from[1]} x2={to[0]} y2={to[1]} strokeWidth={1.5 * px} />
      <circle cx={to[0]} cy={to[1]} r={5 * px} strokeWidth={1.5 * px} />
    </>
  );
  return (
    <svg className="board-arrows" width={1} height={1}>
      {board.filter(isArrow).map((arrow) => {
        const to = endAt(arrow.to, board, heights);
        const source = board.find((i) => i.id === arrow.from.item);
        const from =
          source && isLying(source) && source.kind === "note"
            ? leaves(source, heights, to)
            : endAt(arrow.from, board, heights);
        return (
          <g
            key={arrow.id}
            className={picked.includes(arrow.id) ? "selected" : undefined}
            data-item={arrow.id}
            role="button"
            tabIndex={0}
            aria-label="Arrow"
            onFocus={() => pick(arrow.id, null)}
            onPointerDown={(e) => pick(arrow.id, e)}
            onKeyDown={keys}
          >
            <line className="reach" x1={from[0]} y1={from[1]} x2={to[0]} y2={to[1]} strokeWidth={12 * px} />
            {line([from, to])}
          </g>
        );
      })}
      {drawing && <g className="selected">{line(drawing)}</g>}
    </svg>
  );
}
