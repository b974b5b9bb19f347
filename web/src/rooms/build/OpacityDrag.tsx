// A layer's opacity as a number in the section: drag along it, or use the arrow keys.
import { Tooltip } from "@mantine/core";
import { useState } from "react";

import type { Dial, Layer } from "../../api/types";
import { commit, tryOut } from "../../state/actions";
import { isDriven, setParam, standing } from "../../state/document";
import { useStore } from "../../state/store";

/** Pixels of pointer travel from none to full. */
const TRAVEL = 160;

export function OpacityDrag({ layer, dials }: { layer: Layer; dials: Dial[] }) {
  const spec = useStore((s) => s.catalog.find((e) => e.family === "layer")?.params[0]);
  const [drag, setDrag] = useState<{ x: number; from: number; now: number } | null>(null);
  if (!spec) return null;
  const value = Number(standing(spec, layer.opacity, dials));
  const driven = isDriven(layer.opacity);
  const target = { layer: layer.id, key: "opacity" };
  const keep = (v: number) => void commit(setParam(target, Math.min(1, Math.max(0, Math.round(v * 100) / 100))));
  const shown = Math.round((drag?.now ?? value) * 100);
  return (
    <Tooltip label={driven ? "Opacity, driven by a dial" : "Opacity: drag, or use the arrow keys"}>
      <button
        className="opacity-drag"
        role="slider"
        aria-label={`Opacity of ${layer.name}`}
        aria-valuenow={shown}
        aria-valuemin={0}
        aria-valuemax={100}
        disabled={driven}
        onClick={(e) => e.stopPropagation()}
        onPointerDown={(e) => {
          e.stopPropagation();
          e.currentTarget.setPointerCapture(e.pointerId);
          setDrag({ x: e.clientX, from: value, now: value });
        }}
        onPointerMove={(e) => {
          if (!drag) return;
          const now = Math.min(1, Math.max(0, drag.from + (e.clientX - drag.x) / TRAVEL));
          setDrag({ ...drag, now });
          tryOut(setParam(target, now));
        }}
        onPointerUp={() => {
          if (drag && drag.now !== value) keep(drag.now);
          setDrag(null);
        }}
        onKeyDown={(e) => {
          const by = { ArrowUp: 0.05, ArrowRight: 0.05, ArrowDown: -0.05, ArrowLeft: -0.05 }[e.key];
          if (by === undefined) return;
          e.preventDefault();
          e.stopPropagation();
          keep(value + by);
        }}
      >
        at {shown}
      </button>
    </Tooltip>
  );
}
