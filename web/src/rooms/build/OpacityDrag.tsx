// A layer's opacity as a number in the section: drag along it, or use the arrow keys.
import { Tooltip } from "@mantine/core";
import { IconDropletHalf2 } from "@tabler/icons-react";
import { useState } from "react";

import type { Layer, Standing } from "../../api/types";
import { commit, tryOut } from "../../state/actions";
import { isDriven, setParam, standing } from "../../state/document";
import { useStore } from "../../state/store";

/** Pixels of pointer travel from none to full. */
const TRAVEL = 160;

/** Follows the pointer, wherever it goes, until it is let go. */
function follow(x: number, from: number, moved: (v: number) => void, done: (v: number) => void): void {
  let now = from;
  const move = (e: PointerEvent) => {
    now = Math.min(1, Math.max(0, from + (e.clientX - x) / TRAVEL));
    moved(now);
  };
  const ended = new AbortController();
  window.addEventListener("pointermove", move, { signal: ended.signal });
  for (const end of ["pointerup", "pointercancel"]) {
    window.addEventListener(
      end,
      () => {
        ended.abort();
        done(now);
      },
      { signal: ended.signal },
    );
  }
}

const NONE: Standing[] = [];

export function OpacityDrag({ layer }: { layer: Layer }) {
  const standings = useStore((s) => s.project?.standings ?? NONE);
  const spec = useStore((s) => s.catalog.find((e) => e.family === "layer")?.params[0]);
  const [now, setNow] = useState<number | null>(null);
  if (!spec) return null;
  const target = { layer: layer.id, key: spec.key };
  const value = Number(standing(spec, layer.opacity, target, standings));
  const driven = isDriven(layer.opacity);
  const keep = (v: number) => void commit(setParam(target, Math.min(1, Math.max(0, Math.round(v * 100) / 100))));
  const shown = Math.round((now ?? value) * 100);
  return (
    // The tooltip puts pointer handlers of its own on its child, so the button is not its child.
    <Tooltip label={driven ? "Opacity, driven by a dial" : "Opacity: drag, or use the arrow keys"}>
      <span>
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
            follow(
              e.clientX,
              value,
              (v) => {
                setNow(v);
                tryOut(setParam(target, v));
              },
              (v) => {
                if (v !== value) keep(v);
                setNow(null);
              },
            );
          }}
          onKeyDown={(e) => {
            const by = { ArrowUp: 0.05, ArrowRight: 0.05, ArrowDown: -0.05, ArrowLeft: -0.05 }[e.key];
            if (by === undefined) return;
            e.preventDefault();
            e.stopPropagation();
            keep(value + by);
          }}
        >
          <IconDropletHalf2 size={11} aria-hidden />
          {shown} %
        </button>
      </span>
    </Tooltip>
  );
}
