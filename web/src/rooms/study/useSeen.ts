// What of the board is seen: the wheel goes nearer and further, empty board is dragged. It is kept for each project while the page is open.
import { type PointerEvent, type RefObject, useCallback, useEffect, useRef, useState } from "react";

import { follow } from "../../controls/follow";
import type { Point, Seen } from "./geometry";

const kept = new Map<number, Seen>();
const SCALES: [number, number] = [0.05, 4];

export interface Looking {
  seen: Seen;
  look: (seen: Seen) => void;
  /** The point of the board under the pointer. */
  under: (e: { clientX: number; clientY: number }) => Point;
  /** Begins to drag the board. */
  pan: (e: PointerEvent) => void;
  size: Point;
}

/** `first` is asked for what to show where nothing was looked at before. */
export function useSeen(
  project: number,
  host: RefObject<HTMLDivElement | null>,
  first: (size: Point) => Seen,
): Looking {
  const [seen, setSeen] = useState<Seen>(() => kept.get(project) ?? { from: [0, 0], scale: 1 });
  const [size, setSize] = useState<Point>([1, 1]);
  const begun = useRef(kept.has(project));
  const look = useCallback(
    (next: Seen) => {
      kept.set(project, next);
      setSeen(next);
    },
    [project],
  );
  useEffect(() => {
    const element = host.current;
    if (!element) return;
    const watch = new ResizeObserver(() => {
      const now: Point = [element.clientWidth, element.clientHeight];
      setSize(now);
      if (!begun.current && now[0] > 1) {
        begun.current = true;
        look(first(now));
      }
    });
    watch.observe(element);
    return () => watch.disconnect();
    // What is shown first is asked for once.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [host, look]);
  const under = (e: { clientX: number; clientY: number }): Point => {
    const box = host.current?.getBoundingClientRect();
    const { from, scale } = seen;
    return [from[0] + (e.clientX - (box?.left ?? 0)) / scale, from[1] + (e.clientY - (box?.top ?? 0)) / scale];
  };
  // React's own wheel handlers can't keep the page from scrolling.
  const latest = useRef({ seen, under });
  useEffect(() => {
    latest.current = { seen, under };
  });
  useEffect(() => {
    const element = host.current;
    if (!element) return;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      const { seen: now, under: at } = latest.current;
      const [x, y] = at(e);
      const scale = Math.min(SCALES[1], Math.max(SCALES[0], now.scale * Math.exp(-e.deltaY * 0.0015)));
      // What lies under the pointer stays there.
      const by = now.scale / scale;
      look({ from: [x - (x - now.from[0]) * by, y - (y - now.from[1]) * by], scale });
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, [host, look]);
  const pan = (e: PointerEvent) => {
    const [x, y] = [e.clientX, e.clientY];
    const { from, scale } = seen;
    follow(e, (to) => look({ from: [from[0] - (to.clientX - x) / scale, from[1] - (to.clientY - y) / scale], scale }));
  };
  return { seen, look, under, pan, size };
}
