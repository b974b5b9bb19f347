// Dragging out of the cabinet, into the section or into a mask line.
import type { DragEvent } from "react";

/** What is being dragged: one thing at a time, in this page alone. */
let dragged: Carried | null = null;

export type Carried = {
  /** Where it may be dropped. */
  onto: "section" | "line";
  /** Drops it: over a layer, or at a place of the line. */
  drop: (over: string | null) => void;
};

/** What makes an element one that is dragged. */
export const carries = (carried: Carried) => ({
  draggable: true,
  onDragStart: (e: DragEvent) => {
    dragged = carried;
    e.dataTransfer.effectAllowed = "copy";
    // Without content some browsers don't begin to drag.
    e.dataTransfer.setData("text/plain", "");
  },
  onDragEnd: () => {
    dragged = null;
  },
});

/** What makes an element one that things are dropped on; `over` is the layer there. */
export const takes = (onto: Carried["onto"], over: string | null) => ({
  onDragOver: (e: DragEvent<HTMLElement>) => {
    if (dragged?.onto !== onto) return;
    e.preventDefault();
    e.stopPropagation();
    e.dataTransfer.dropEffect = "copy";
    e.currentTarget.dataset.over = "yes";
  },
  onDragLeave: (e: DragEvent<HTMLElement>) => {
    delete e.currentTarget.dataset.over;
  },
  onDrop: (e: DragEvent<HTMLElement>) => {
    delete e.currentTarget.dataset.over;
    if (dragged?.onto !== onto) return;
    e.preventDefault();
    e.stopPropagation();
    dragged.drop(over);
    dragged = null;
  },
});
