// The board of the Study room: pictures, notes, frames and arrows, laid out freely by pointer or keys.
import { type KeyboardEvent, type PointerEvent, useCallback, useEffect, useRef, useState } from "react";

import type { BoardItem } from "../../api/types";
import { follow } from "../../controls/follow";
import { useDropped } from "../../controls/useDropped";
import { commit } from "../../state/actions";
import { useStore } from "../../state/store";
import { Arrows } from "./Arrows";
import { bringPictures } from "./bringing";
import {
  around,
  type Heights,
  isLying,
  itemAt,
  moved,
  type Point,
  shareAt,
  showing,
  sized,
  type Tool,
  turnedBy,
} from "./geometry";
import { Handles } from "./Handles";
import { Item } from "./Item";
import { BoardTools } from "./Tools";
import { useSeen } from "./useSeen";

const NOTHING: BoardItem[] = [];

const WAYS: Record<string, Point> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

export function Board() {
  const project = useStore((s) => s.project?.id ?? 0);
  const kept = useStore((s) => s.project?.document.study?.board ?? NOTHING);
  const host = useRef<HTMLDivElement>(null);
  const [heights, setHeights] = useState<Heights>({});
  const [trial, setShown] = useState<BoardItem[]>(NOTHING);
  // What is tried now, for whoever lets go of it: what is drawn may be a moment older.
  const trying = useRef<BoardItem[]>(NOTHING);
  const [picked, setPicked] = useState<string[]>([]);
  const [writing, setWriting] = useState<string | null>(null);
  const [cutting, setCutting] = useState(false);
  const [tool, setTool] = useState<Tool>({ kind: "none" });
  const [pointer, setPointer] = useState<Point>([0, 0]);
  const [coming, setComing] = useState(0);
  const board = kept.map((item) => trial.find((t) => t.id === item.id) ?? item);
  const chosen = board.filter((i) => picked.includes(i.id));
  const whole = (size: Point) => {
    const box = around(kept, kept, heights);
    return box ? showing(box, size) : { from: [-size[0] / 2, -size[1] / 2] as Point, scale: 1 };
  };
  const { seen, look, under, pan, size } = useSeen(project, host, whole);
  const middle: Point = [seen.from[0] + size[0] / seen.scale / 2, seen.from[1] + size[1] / seen.scale / 2];
  const measured = useCallback(
    (id: string) => (height: number) => setHeights((h) => (h[id] === height ? h : { ...h, [id]: height })),
    [],
  );
  const bringIn = (files: File[], at: Point) => void bringPictures(files, at, setComing);
  const { over, takes } = useDropped((files) =>
    bringIn(
      files.map((f) => f.file),
      middle,
    ),
  );

  const attempt = (items: BoardItem[]) => {
    trying.current = items;
    setShown(items);
  };
  /** Puts things on the board, or changes those that lie there; the ids of those that are new. They are shown so at once: what is pressed next goes on from there. */
  const put = async (...items: BoardItem[]): Promise<string[]> => {
    if (items.length === 0) return [];
    const before = new Set(kept.map((i) => i.id));
    const changed = items.filter((i) => i.id !== "");
    attempt([...trying.current.filter((t) => changed.every((i) => i.id !== t.id)), ...changed]);
    const after = await commit({ edit: "put_on_board", items });
    // What was tried since then is still being tried.
    attempt(trying.current.filter((t) => !items.includes(t)));
    return (after?.document.study?.board ?? []).map((i) => i.id).filter((id) => !before.has(id));
  };
  const add = async (item: BoardItem, write: boolean) => {
    const [id] = await put(item);
    if (id === undefined) return;
    setPicked([id]);
    if (write) setWriting(id);
  };
  const remove = (ids: string[]) => {
    if (ids.length > 0) void commit({ edit: "take_off_board", items: ids });
    setPicked([]);
    host.current?.focus();
  };
  const note = (at: Point, text = "note") =>
    void add({ id: "", kind: "note", lies: { at, width: 180 }, text }, text === "note");

  // Pictures and words that are pasted come to lie in the middle.
  const paste = useRef<(e: ClipboardEvent) => void>(() => undefined);
  useEffect(() => {
    paste.current = (e) => {
      if (e.target instanceof HTMLElement && /^(INPUT|TEXTAREA)$/.test(e.target.tagName)) return;
      const files = [...(e.clipboardData?.files ?? [])];
      const text = e.clipboardData?.getData("text/plain").trim().slice(0, 2000) ?? "";
      if (files.length > 0) bringIn(files, middle);
      else if (text !== "") note(middle, text);
      else return;
      e.preventDefault();
    };
  });
  useEffect(() => {
    const pasted = (e: ClipboardEvent) => paste.current(e);
    window.addEventListener("paste", pasted);
    return () => window.removeEventListener("paste", pasted);
  }, []);

  const take = (id: string, e: { shiftKey: boolean } | null): string[] => {
    const more = e?.shiftKey ?? false;
    const next = !more
      ? picked.includes(id)
        ? picked
        : [id]
      : picked.includes(id)
        ? picked.filter((p) => p !== id)
        : [...picked, id];
    setPicked(next);
    if (!next.includes(id) || next.length > 1) setCutting(false);
    return next;
  };
  /** Ends an arrow where the pointer is. */
  const pointTo = (at: Point, from: Point) => {
    setTool({ kind: "none" });
    const end = (place: Point) => {
      const item = itemAt(board, heights, place);
      return item && item.kind !== "frame" ? { item: item.id, at: shareAt(item, heights, place) } : { at: place };
    };
    void add({ id: "", kind: "arrow", from: end(from), to: end(at) }, false);
  };
  const drawArrow = (at: Point) => {
    if (tool.kind !== "arrow") return;
    if (tool.from) pointTo(at, tool.from);
    else setTool({ kind: "arrow", from: at });
  };
  const drag = (e: PointerEvent, id: string) => {
    if (e.button !== 0 || writing === id) return;
    e.stopPropagation();
    if (tool.kind === "arrow") return drawArrow(under(e));
    const mine = take(id, e);
    const [x, y] = under(e);
    const start = board.filter((i) => mine.includes(i.id));
    follow(
      e,
      (to) => {
        const [nx, ny] = under(to);
        attempt(start.map((i) => moved(i, [nx - x, ny - y])));
      },
      (went) => went && void put(...trying.current),
    );
  };
  const empty = (e: PointerEvent) => {
    if (e.button !== 0 && e.button !== 1) return;
    if (tool.kind === "arrow") return drawArrow(under(e));
    setPicked([]);
    setCutting(false);
    pan(e);
  };
  const keys = (e: KeyboardEvent) => {
    if (writing !== null) return;
    const done = () => {
      e.preventDefault();
      // What is pressed here is meant for the board and nothing else.
      e.stopPropagation();
    };
    if (e.key === "Escape") {
      setTool({ kind: "none" });
      setCutting(false);
      setPicked([]);
    }
    if (chosen.length === 0 || e.ctrlKey || e.metaKey) return;
    const way = WAYS[e.key];
    const lying = chosen.filter(isLying);
    if (way) {
      const by = e.shiftKey ? 50 : 5;
      void put(...chosen.map((i) => moved(i, [way[0] * by, way[1] * by])));
    } else if (e.key === "[" || e.key === "]") void put(...lying.map((i) => sized(i, e.key === "]" ? 1.1 : 1 / 1.1)));
    else if (e.key === "{" || e.key === "}")
      void put(...lying.filter((i) => i.kind !== "frame").map((i) => turnedBy(i, e.key === "}" ? 5 : -5)));
    else if (e.key === "Delete") remove(picked);
    else if (e.key === "PageUp" || e.key === "PageDown") stack(e.key === "PageUp");
    else return;
    done();
  };
  const stack = (up: boolean) => {
    const [first] = chosen;
    if (first) void commit({ edit: "stack_on_board", item: first.id, index: up ? kept.length - 1 : 0 });
  };
  const written = (item: BoardItem, text: string) => {
    setWriting(null);
    if (!isLying(item) || text === (item.text ?? "")) return;
    // A note without words is none.
    if (text === "" && item.kind === "note") remove([item.id]);
    else void put({ ...item, text });
  };
  const inView = (item: BoardItem) => {
    const box = around([item], board, heights);
    if (!box) return false;
    const room = 200 / seen.scale;
    const [[l, t], [r, b]] = box;
    const [right, bottom] = [seen.from[0] + size[0] / seen.scale, seen.from[1] + size[1] / seen.scale];
    return r > seen.from[0] - room && l < right + room && b > seen.from[1] - room && t < bottom + room;
  };
  const { from, scale } = seen;
  const [one] = chosen;
  return (
    <>
      <div
        ref={host}
        className={`board${over ? " over" : ""}${tool.kind === "arrow" ? " pointing" : ""}`}
        tabIndex={0}
        role="application"
        aria-label="Board"
        onPointerDown={empty}
        onPointerMove={(e) => tool.kind === "arrow" && setPointer(under(e))}
        onKeyDown={keys}
        {...takes}
      >
        <div className="board-plane" style={{ transform: `scale(${scale}) translate(${-from[0]}px, ${-from[1]}px)` }}>
          {board.map(
            (item) =>
              isLying(item) &&
              (inView(item) || picked.includes(item.id)) && (
                <Item
                  key={item.id}
                  item={item}
                  scale={scale}
                  selected={picked.includes(item.id)}
                  writing={writing === item.id}
                  onPointerDown={(e) => drag(e, item.id)}
                  onFocus={() => picked.includes(item.id) || setPicked([item.id])}
                  write={() => setWriting(item.id)}
                  written={(text) => written(item, text)}
                  measured={measured(item.id)}
                />
              ),
          )}
          <Arrows
            board={board}
            heights={heights}
            scale={scale}
            picked={picked}
            drawing={tool.kind === "arrow" && tool.from ? [tool.from, pointer] : null}
            pick={(id, e) => (e ? drag(e, id) : setPicked([id]))}
            keys={keys}
          />
          {one && chosen.length === 1 && isLying(one) && writing === null && (
            <Handles
              item={one}
              heights={heights}
              scale={scale}
              cutting={cutting}
              under={under}
              attempt={(item) => attempt([item])}
              keep={() => void put(...trying.current)}
            />
          )}
        </div>
        {kept.length === 0 && coming === 0 && (
          <p className="board-empty">
            Drop photographs here, paste them, or bring them in. Write down what you see, and plan what the piece is to
            be made of beside it.
          </p>
        )}
      </div>
      <BoardTools
        chosen={chosen}
        tool={tool}
        setTool={setTool}
        cutting={cutting}
        setCutting={setCutting}
        coming={coming}
        bring={(files) => bringIn(files, middle)}
        note={() => note(middle)}
        frame={() => {
          const box = around(chosen, board, heights) ?? [
            [middle[0] - 150, middle[1] - 100],
            [middle[0] + 150, middle[1] + 100],
          ];
          const [[l, t], [r, b]] = box;
          const lies = { at: [(l + r) / 2, (t + b) / 2] as Point, width: r - l + 60 };
          void add({ id: "", kind: "frame", lies, height: b - t + 60, text: "frame" }, true);
        }}
        stack={stack}
        remove={() => remove(picked)}
        write={() => one && setWriting(one.id)}
        whole={() => look(whole(size))}
        put={put}
      />
    </>
  );
}
