// The borders of a room's panels: dragged, moved by the arrow keys, or put back by a double click. What they were left at is kept for each room.
import { useLocalStorage } from "@mantine/hooks";
import type { CSSProperties, KeyboardEvent, PointerEvent } from "react";

import { useStore } from "../state/store";
import type { Room } from "./rooms";

type Side = "left" | "right" | "bottom";

interface Panel {
  side: Side;
  label: string;
  /** Pixels, before anybody moved its border. */
  usual: number;
  /** Pixels now. */
  size: number;
}

const BOUNDS: Record<Side, [number, number]> = { left: [200, 480], right: [240, 640], bottom: [120, 420] };
const STEP = 16;

const PANELS: Record<Room, Omit<Panel, "size">[]> = {
  build: [
    { side: "left", label: "Width of the section", usual: 272 },
    { side: "right", label: "Width of the settings", usual: 280 },
    { side: "bottom", label: "Height of the mask line", usual: 184 },
  ],
  surface: [
    { side: "left", label: "Width of the parts", usual: 272 },
    { side: "right", label: "Width of the measurements", usual: 300 },
  ],
  study: [
    { side: "right", label: "Width of the plan", usual: 470 },
    { side: "bottom", label: "Height of the piece", usual: 256 },
  ],
  dials: [{ side: "right", label: "Width of the dials", usual: 420 }],
  handoff: [{ side: "right", label: "Width of the hand-off", usual: 420 }],
};

/** A room's panels with their sizes, and what gives one another size. */
export function usePanels(room: Room): [Panel[], (panel: Panel, size: number) => void] {
  const [sizes, setSizes] = useLocalStorage<Record<string, number>>({
    key: "dustcoat.panels",
    defaultValue: {},
    getInitialValueInEffect: false,
  });
  const panels = PANELS[room].map((p) => ({ ...p, size: sizes[`${room} ${p.side}`] ?? p.usual }));
  const set = ({ side }: Panel, size: number) => {
    const [least, most] = BOUNDS[side];
    setSizes((all) => ({ ...all, [`${room} ${side}`]: Math.round(Math.min(most, Math.max(least, size))) }));
  };
  return [panels, set];
}

/** The sizes as the style sheet takes them. */
export const asStyle = (panels: Panel[]): CSSProperties =>
  Object.fromEntries(panels.map(({ side, size }) => [`--${side}`, `${size}px`]));

export function Borders({ panels, set }: { panels: Panel[]; set: (panel: Panel, size: number) => void }) {
  const away = useStore((s) => s.away);
  if (away) return null;
  return panels.map((p) => <Border key={p.side} panel={p} set={(size) => set(p, size)} />);
}

/** How large a panel is when its border lies under the pointer. */
const UNDER: Record<Side, (e: PointerEvent) => number> = {
  left: (e) => e.clientX,
  right: (e) => window.innerWidth - e.clientX,
  bottom: (e) => window.innerHeight - e.clientY,
};
/** The keys that make it larger and smaller. */
const KEYS: Record<Side, [string, string]> = {
  left: ["ArrowRight", "ArrowLeft"],
  right: ["ArrowLeft", "ArrowRight"],
  bottom: ["ArrowUp", "ArrowDown"],
};

function Border({ panel: { side, label, usual, size }, set }: { panel: Panel; set: (size: number) => void }) {
  const [least, most] = BOUNDS[side];
  const keys = (e: KeyboardEvent) => {
    const by = [STEP, -STEP][KEYS[side].indexOf(e.key)];
    if (by === undefined) return;
    e.preventDefault();
    set(size + by);
  };
  return (
    <div
      className={`border ${side}`}
      role="separator"
      aria-label={label}
      aria-orientation={side === "bottom" ? "horizontal" : "vertical"}
      aria-valuemin={least}
      aria-valuemax={most}
      aria-valuenow={size}
      tabIndex={0}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={(e) => e.currentTarget.hasPointerCapture(e.pointerId) && set(UNDER[side](e))}
      onDoubleClick={() => set(usual)}
      onKeyDown={keys}
    />
  );
}
