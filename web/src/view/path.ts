// Paths on the piece: points that are set one after the other while the brush is taken up, and moved, put in and taken out later.
import { Vector3 } from "three";

import { api } from "../api/client";
import type { Edit } from "../api/types";
import { commit, say, tryOut } from "../state/actions";
import { pathOf, pickedPath, strokeAlong } from "../state/brush";
import { findLayer } from "../state/document";
import { busy, type State, useStore } from "../state/store";
import { elsewhere, Handles, nearest, told } from "./handles";
import { mirrored, rowOf } from "./rows";
import { OnPiece } from "./onPiece";
import type { View } from "./under";

/** A path that is picked: where it belongs, and the points that it is led through. */
interface Held {
  place: { layer: string; step: string };
  id: string;
  /** The hash of its points. */
  points: string;
  /** Whether it comes back to the first of them. */
  closed: boolean;
  rows: number[][];
}

/** A point that is being dragged, and how all of them lay before. */
interface Drag {
  pointer: number;
  at: number;
  before: number[][];
}

export class Path extends OnPiece {
  private readonly dots: Handles;
  private readonly between: Handles;
  private readonly last: Handles;
  /** The points of one that is being set. */
  private set: number[][] | null = null;
  private held: Held | null = null;
  private drag: Drag | null = null;
  /** The point that was taken last: Delete takes it out. */
  private active: number | null = null;
  private fetching = "";

  constructor(view: View) {
    super(view);
    this.between = new Handles(view.scene, 8);
    this.dots = new Handles(view.scene, 12);
    this.last = new Handles(view.scene, 12, { full: true });
    const { signal } = this;
    view.canvas.addEventListener("dblclick", this.twice, { capture: true, signal });
    window.addEventListener("keydown", this.key, { capture: true, signal });
  }

  protected sync(now: State, before: State): void {
    const keys = ["project", "layer", "step", "room", "strokes", "drawing", "brush", "probing", "camera"] as const;
    if (keys.every((key) => now[key] === before[key])) return;
    if (this.set && !pathOf(now)) {
      // Put down in the middle of it, that is where it ends.
      if (now.project?.id === before.project?.id) this.finish(before, false);
      else this.set = null;
    } else if (this.set && now.brush !== before.brush) this.soon();
    this.take(now);
    this.show();
  }

  /** Takes hold of the path that is picked, once its points are here. */
  private take(s: State): void {
    const picked = pickedPath(s);
    if (!picked || !s.project) {
      this.held = null;
      this.fetching = "";
      return;
    }
    const { place, stroke } = picked;
    const [id, points] = [stroke.id ?? "", String(stroke.points)];
    if (this.held && (this.held.id !== id || this.held.place.step !== place.step)) this.held = null;
    const closed = stroke.closed ?? false;
    if (this.held) this.held.closed = closed;
    if (this.held?.points === points || this.fetching === points) return;
    this.fetching = points;
    const done = busy();
    api
      .strokesSeen(s.project.id, { ...place, strokes: [id] })
      .then(([seen]) => {
        if (this.fetching !== points || this.drag) return;
        this.held = seen ? { place, id, points, closed, rows: seen.points.map((row) => [...row]) } : null;
        this.show();
      })
      .catch(say)
      .finally(() => {
        if (this.fetching === points) this.fetching = "";
        done();
      });
  }

  /** The points that a hand may take hold of now. */
  private rows(): number[][] | null {
    const s = useStore.getState();
    return s.probing || s.picking ? null : (this.set ?? this.held?.rows ?? null);
  }

  protected down(event: PointerEvent): void {
    const s = useStore.getState();
    if (event.button !== 0 || this.drag || s.probing || s.picking) return;
    const px = this.under.pixels(event);
    const rows = this.rows();
    const seen = rows?.map((row) => this.under.seen(placeOf(row)));
    const taken = seen ? nearest(px, seen) : null;
    if (rows && taken !== null) {
      event.stopImmediatePropagation();
      if (event.altKey) return this.without(taken);
      if (this.set && taken === 0 && rows.length > 2) return this.finish(s, true);
      return this.begin(event, taken, rows);
    }
    const gap =
      !this.set && rows
        ? nearest(
            px,
            this.middles(rows).map((at) => this.under.seen(at)),
          )
        : null;
    const place = this.under.place(px);
    if (!place || (gap === null && !pathOf(s))) return;
    event.stopImmediatePropagation();
    const row = rowOf(place, 1, 0);
    if (rows && gap !== null) {
      this.begin(event, gap + 1, rows);
      this.held?.rows.splice(gap + 1, 0, row);
    } else {
      this.set ??= [];
      this.begin(event, this.set.length, this.set);
      this.set.push(row);
    }
    this.soon();
  }

  private begin(event: PointerEvent, at: number, rows: number[][]): void {
    this.view.canvas.setPointerCapture(event.pointerId);
    this.drag = { pointer: event.pointerId, at, before: rows.map((row) => [...row]) };
    this.active = at;
    this.show();
  }

  protected move(event: PointerEvent): void {
    const { drag } = this;
    if (!drag) return this.point(event);
    event.stopImmediatePropagation();
    const place = event.pointerId === drag.pointer ? this.under.place(this.under.pixels(event)) : null;
    const rows = this.set ?? this.held?.rows;
    if (!place || !rows) return;
    rows[drag.at] = rowOf(place, 1, 0);
    this.soon();
  }

  protected up(event: PointerEvent): void {
    const { drag } = this;
    if (!drag || event.pointerId !== drag.pointer) return;
    event.stopImmediatePropagation();
    this.drag = null;
    if (!this.set && this.held && this.held.rows.join(";") !== drag.before.join(";")) this.keep(this.held);
    this.show();
  }

  private readonly twice = (event: MouseEvent): void => {
    if (!this.set) return;
    event.stopImmediatePropagation();
    this.finish(useStore.getState(), false);
  };

  private readonly key = (event: KeyboardEvent): void => {
    if (elsewhere(event.target)) return;
    const mine = this.byKey(event.key);
    if (!mine) return;
    event.stopImmediatePropagation();
    event.preventDefault();
    mine();
  };

  private byKey(key: string): (() => void) | null {
    const { set, drag } = this;
    if (key === "Escape" && drag) return () => this.back(drag);
    if (key === "Escape" && set)
      return () => {
        this.set = null;
        tryOut();
        this.show();
      };
    if (key === "Enter" && set) return () => this.finish(useStore.getState(), false);
    if (key !== "Delete" && key !== "Backspace") return null;
    if (set) return () => this.without(set.length - 1);
    const { active, held } = this;
    return held && active !== null && active < held.rows.length ? () => this.without(active) : null;
  }

  /** As it was before the drag. */
  private back({ before }: Drag): void {
    this.drag = null;
    if (this.set) this.set = before.length > 0 ? before : null;
    else if (this.held) this.held.rows = before;
    tryOut(...this.edits(useStore.getState()));
    this.show();
  }

  /** Takes a point out; a path keeps one. */
  private without(at: number): void {
    if (this.set) {
      this.set.splice(at, 1);
      if (this.set.length === 0) this.set = null;
      this.soon();
    } else if (this.held && this.held.rows.length > 1) {
      this.held.rows.splice(at, 1);
      this.keep(this.held);
    } else say("The last point of a path stays: remove the path itself in the list.");
    this.active = null;
    this.show();
  }

  /** Keeps what was set, as the brush stood, and picks it. */
  private finish(s: State, closed: boolean): void {
    const edits = this.edits(s, closed);
    const { drawing } = s;
    this.set = null;
    this.drag = null;
    this.trial.stop();
    this.show();
    if (!drawing || edits.length === 0) return;
    void commit(...edits).then((after) => {
      const step =
        after && findLayer(after.document.layers, drawing.layer)?.mask.steps.find((one) => one.id === drawing.step);
      // What is mirrored of it comes after it.
      const made = step?.strokes?.at(-edits.length)?.id;
      if (made !== undefined && useStore.getState().step === drawing.step) useStore.setState({ strokes: [made] });
    });
  }

  protected tries(): Edit[] {
    return this.edits(useStore.getState());
  }

  /** What makes the piece show the points as they lie now. */
  private edits(s: State, closed = false): Edit[] {
    const { set, held } = this;
    if (set && s.drawing) {
      const { drawing } = s;
      const all = [set, mirrored(set, s, this.view)].filter((rows) => rows !== null);
      return all.map((rows) => {
        const stroke = strokeAlong(s, rows, false);
        return { edit: "add_stroke", ...drawing, stroke: closed ? { ...stroke, closed } : stroke };
      });
    }
    if (!set && held) return [{ edit: "set_stroke_points", ...held.place, stroke: held.id, points: held.rows }];
    return [];
  }

  private keep(held: Held): void {
    this.trial.stop();
    void commit({ edit: "set_stroke_points", ...held.place, stroke: held.id, points: held.rows }).then((after) => {
      if (after) return;
      // It was refused: its points are asked for anew.
      this.held = null;
      this.take(useStore.getState());
      this.show();
    });
  }

  /** Shows it lying so, once a frame. */
  private soon(): void {
    this.show();
    this.trial.soon();
  }

  /** Says by the pointer what a press would take. */
  private point(event: PointerEvent): void {
    const rows = this.rows();
    if (!rows) return;
    const places = [...rows.map(placeOf), ...(this.set ? [] : this.middles(rows))];
    const on = nearest(
      this.under.pixels(event),
      places.map((at) => this.under.seen(at)),
    );
    const drawing = useStore.getState().drawing !== null;
    this.view.canvas.style.cursor = on === null ? (drawing ? "crosshair" : "") : on < rows.length ? "move" : "copy";
  }

  /** Halfway between one point and the next, on the surface: what is dragged from there is put in between. */
  private middles(rows: number[][]): Vector3[] {
    const [first] = rows;
    const back = this.held?.closed && rows.length > 2 && first ? [first] : [];
    return [...rows.slice(1), ...back].map((b, i) => {
      const a = rows[i] ?? b;
      const at = placeOf(a).lerp(placeOf(b), 0.5);
      const normal = normalOf(a).add(normalOf(b)).normalize();
      return this.under.beside({ at, normal }, placeOf(a).distanceTo(placeOf(b)) / 2 + 1)?.at ?? at;
    });
  }

  private show(): void {
    const rows = this.rows();
    const places = rows?.map(placeOf) ?? [];
    this.dots.show(places);
    const middles = rows && !this.set ? this.middles(rows) : [];
    this.between.show(middles);
    const active = this.active === null ? undefined : places[this.active];
    this.last.show(active ? [active] : []);
    const { dataset } = this.view.host;
    const seen = (all: Vector3[]) => told(all.map((at) => this.under.seen(at)));
    if (places.length > 0) [dataset["path"], dataset["between"]] = [seen(places), seen(middles)];
    else [dataset["path"], dataset["between"]] = ["", ""];
    this.view.invalidate();
  }
}

const placeOf = (row: number[]): Vector3 => new Vector3(row[0], row[1], row[2]);
const normalOf = (row: number[]): Vector3 => new Vector3(row[3], row[4], row[5]);
