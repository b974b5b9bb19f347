// Something on the board: a picture with its caption and palette, a note, or a frame.
import { type KeyboardEvent, type PointerEvent, useLayoutEffect, useRef, useState } from "react";

import { api } from "../../api/client";
import { Swatches, usePalettes } from "../../controls/Palettes";
import { useStore } from "../../state/store";
import { type BoardPicture, cropOf, heightOf, type Lying, sideOf } from "./geometry";

interface Props {
  item: Lying;
  scale: number;
  selected: boolean;
  writing: boolean;
  onPointerDown: (e: PointerEvent) => void;
  onFocus: () => void;
  write: () => void;
  /** The words as they are now; the writing is over. */
  written: (text: string) => void;
  measured: (height: number) => void;
}

const KIND = { picture: "Picture", note: "Note", frame: "Frame" };

/** What a screen reader says for it. */
export const nameOf = (item: Lying) =>
  `${KIND[item.kind]} ${item.text?.trim() || (item.kind === "picture" ? item.file : "without words")}`;

export function Item({ item, scale, selected, writing, onPointerDown, onFocus, write, written, measured }: Props) {
  const { at, width, turn = 0 } = item.lies;
  const words = useRef<HTMLDivElement>(null);
  const { text, kind } = item;
  // A note is as high as its words.
  useLayoutEffect(() => {
    if (kind === "note" && words.current) measured(words.current.offsetHeight);
  }, [kind, text, width, writing, measured]);
  const height = item.kind === "note" ? undefined : heightOf(item, {});
  const style = { left: at[0], top: at[1], width, height, transform: `translate(-50%, -50%) rotate(${turn}deg)` };
  const keys = (e: KeyboardEvent) => {
    if (e.key !== "Enter" || writing) return;
    e.preventDefault();
    e.stopPropagation();
    write();
  };
  const text_ = writing ? (
    <Words text={text ?? ""} label={`Words of the ${item.kind}`} written={written} />
  ) : (
    <span>{text}</span>
  );
  return (
    <div
      className={`board-item ${item.kind}${selected ? " selected" : ""}`}
      style={style}
      role="group"
      tabIndex={0}
      aria-label={nameOf(item)}
      aria-roledescription="on the board"
      data-item={item.id}
      data-selected={selected}
      onPointerDown={onPointerDown}
      onDoubleClick={write}
      onFocus={(e) => e.target === e.currentTarget && onFocus()}
      onKeyDown={keys}
    >
      {item.kind === "picture" && (
        <div className="board-card">
          <Seen picture={item} scale={scale} />
          <Strip name={item.palette} />
          {(writing || text) && <div className="board-caption">{text_}</div>}
        </div>
      )}
      {item.kind === "note" && (
        <div ref={words} className="board-note">
          {text_}
        </div>
      )}
      {item.kind === "frame" && <div className="board-frame-name">{text_}</div>}
    </div>
  );
}

function Seen({ picture, scale }: { picture: BoardPicture; scale: number }) {
  const project = useStore((s) => s.project?.id ?? 0);
  const [left, top, right, bottom] = cropOf(picture);
  const [w, h] = [right - left, bottom - top];
  return (
    <div className="board-picture" style={{ height: heightOf(picture, {}) }}>
      <img
        src={api.broughtPicture(project, picture.hash, sideOf(picture, scale))}
        alt={picture.text || picture.file}
        draggable={false}
        loading="lazy"
        style={{
          width: `${100 / w}%`,
          height: `${100 / h}%`,
          left: `${(-100 * left) / w}%`,
          top: `${(-100 * top) / h}%`,
        }}
      />
    </div>
  );
}

/** The palette that was pulled from a picture, while the project has it. */
function Strip({ name }: { name: string | undefined }) {
  const palette = usePalettes().find((p) => p.name === name);
  return palette ? <Swatches colors={palette.colors} of={palette.name} /> : null;
}

function Words({ text, label, written }: { text: string; label: string; written: (text: string) => void }) {
  const [now, setNow] = useState(text);
  return (
    <textarea
      aria-label={label}
      autoFocus
      rows={Math.max(1, now.split("\n").length)}
      maxLength={2000}
      value={now}
      onFocus={(e) => e.currentTarget.select()}
      onChange={(e) => setNow(e.currentTarget.value)}
      onPointerDown={(e) => e.stopPropagation()}
      onBlur={() => written(now.trim())}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Escape" || (e.key === "Enter" && !e.shiftKey)) e.currentTarget.blur();
      }}
    />
  );
}
