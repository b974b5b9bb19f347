// The brush on the piece: a ring that lies on the surface, and what the pen draws with it.
import { BufferGeometry, LineBasicMaterial, LineLoop, type Vector2, Vector3 } from "three";

import type { Edit } from "../api/types";
import { commit, tryOut } from "../state/actions";
import { brushSpecs, brushValue, drawnStep, fills, hand, laidAlong, pathOf, pickAt, strokeAlong } from "../state/brush";
import { shownNumber } from "../state/document";
import { type State, useStore } from "../state/store";
import { mirrored, rowOf } from "./rows";
import { OnPiece } from "./onPiece";
import { type Place, STRAY, type View } from "./under";

/** Points of the ring. */
const AROUND = 72;
/** The pen's way is looked at every so many pixels. */
const STEP = 4;
/** Points of a stroke at most. */
const LONGEST = 4000;
/** Two spots that lie farther apart than this many times what lies between them in the picture are on two things, one behind the other. */
const LEAP = 10;

/** What is being drawn. */
interface Drawn {
  pointer: number;
  /** Rows of points: a new one wherever the pen left the piece. */
  rows: number[][][];
  /** Whether it takes away what it would add, and the other way round. */
  turned: boolean;
  /** Where the pen was last, in pixels, and the spot there. */
  last: Vector2;
  spot: Place | null;
  began: number;
}

export class Brush extends OnPiece {
  private readonly ring = circle(0xffffff);
  private readonly shade = circle(0x20242a);
  private readonly core = circle(0xffffff);
  private readonly says = document.createElement("div");
  private drawn: Drawn | null = null;
  /** Where the last stroke ended: Shift goes straight on from there. */
  private end: Vector3 | null = null;
  /** Where a click may begin. */
  private pressed: Vector2 | null = null;

  constructor(view: View) {
    super(view);
    const { canvas, scene, host } = view;
    this.says.className = "brush-says mono";
    this.says.hidden = true;
    host.append(this.says);
    scene.add(this.shade, this.ring, this.core);
    const { signal } = this;
    canvas.addEventListener("pointerleave", this.hide, { signal });
    window.addEventListener("keydown", this.key, { signal });
  }

  override dispose(): void {
    super.dispose();
    this.says.remove();
  }

  protected sync(now: State, before: State): void {
    if (now.drawing === before.drawing && now.brush === before.brush) return;
    this.view.canvas.style.cursor = now.drawing ? "crosshair" : "";
    if (now.drawing === null) {
      // Put down in the middle of a stroke, that is where it ends.
      if (this.drawn && now.project?.id === before.project?.id) this.finish(this.drawn, before);
      else this.forget();
      this.hide();
      return;
    }
    if (this.ring.visible) this.size(now);
    this.view.invalidate();
  }

  protected down(event: PointerEvent): void {
    const s = useStore.getState();
    const px = this.under.pixels(event);
    this.pressed = event.button === 0 && s.drawing === null ? px : null;
    if (s.drawing === null || pathOf(s) || event.button !== 0 || this.drawn !== null) return;
    const spot = this.under.place(px);
    // Beside the piece the camera is turned, as ever.
    if (!spot) return;
    event.stopImmediatePropagation();
    this.view.canvas.setPointerCapture(event.pointerId);
    this.drawn = {
      pointer: event.pointerId,
      rows: [[]],
      turned: event.altKey,
      last: px,
      spot: null,
      began: event.timeStamp,
    };
    if (event.shiftKey && this.end && !fills(s)) this.along(this.drawn, this.under.seen(this.end), px, event);
    else this.add(this.drawn, px, event);
    this.show(spot, s);
    this.trial.soon();
  }

  protected move(event: PointerEvent): void {
    const s = useStore.getState();
    if (s.drawing === null) return;
    const { drawn } = this;
    const px = this.under.pixels(event);
    if (drawn && event.pointerId === drawn.pointer) {
      event.stopImmediatePropagation();
      const all = event.getCoalescedEvents();
      for (const one of all.length > 0 ? all : [event]) this.go(drawn, one, s);
      this.trial.soon();
    } else if (drawn) {
      // A second pen waits until the first one is up.
      event.stopImmediatePropagation();
      return;
    }
    const spot = this.under.place(drawn ? drawn.last : px);
    if (spot) this.show(spot, s);
    else this.hide();
  }

  protected up(event: PointerEvent): void {
    const { drawn, pressed } = this;
    if (pressed && pressed.distanceTo(this.under.pixels(event)) <= STRAY) this.pick(pressed);
    this.pressed = null;
    if (!drawn || event.pointerId !== drawn.pointer) return;
    event.stopImmediatePropagation();
    this.finish(drawn, useStore.getState());
  }

  /** Keeps what was drawn, as the brush stood. */
  private finish(drawn: Drawn, s: State): void {
    const edits = this.edits(drawn, s);
    this.forget();
    const last = drawn.rows.flat().at(-1);
    if (last) this.end = new Vector3(last[0], last[1], last[2]);
    if (edits.length > 0) void commit(...edits);
    else tryOut();
  }

  private forget(): void {
    this.drawn = null;
    this.trial.stop();
  }

  private readonly key = (event: KeyboardEvent): void => {
    if (event.key === "Escape" && this.drawn) {
      event.stopPropagation();
      this.stop();
    }
  };

  /** A click while the brush is down picks a stroke of the selected step. */
  private pick(px: Vector2): void {
    if (!drawnStep(useStore.getState())) return;
    const spot = this.under.place(px);
    if (spot) void pickAt(spot.at.toArray(), spot.normal.toArray());
  }

  /** Leaves what is being drawn, as if it had not begun. */
  private stop(): void {
    if (!this.drawn) return;
    this.forget();
    tryOut();
  }

  /** Follows the pen, lagging behind it as far as the hand is steadied. */
  private go(drawn: Drawn, event: PointerEvent, s: State): void {
    // What is filled begins where the pen was set down, and there it ends.
    if (fills(s)) return;
    const { steady } = hand(s);
    const to = drawn.last.clone().lerp(this.under.pixels(event), 1 - 0.92 * steady);
    if (to.distanceTo(drawn.last) >= 1) this.along(drawn, drawn.last, to, event);
  }

  private along(drawn: Drawn, from: Vector2, to: Vector2, event: PointerEvent): void {
    const steps = Math.max(1, Math.ceil(from.distanceTo(to) / STEP));
    for (let i = 1; i <= steps; i += 1) this.add(drawn, from.clone().lerp(to, i / steps), event);
  }

  /** Takes in the spot under a place of the view. */
  private add(drawn: Drawn, px: Vector2, event: PointerEvent): void {
    const spot = this.under.place(px);
    const before = drawn.spot;
    const leaps =
      spot &&
      before &&
      spot.at.distanceTo(before.at) > LEAP * this.under.length(spot.at) * Math.max(1, px.distanceTo(drawn.last));
    if ((!spot || leaps) && drawn.rows.at(-1)?.length) drawn.rows.push([]);
    drawn.last = px;
    drawn.spot = spot;
    if (!spot) return;
    // What has no pressure presses fully.
    const pressure = event.pointerType === "pen" ? event.pressure : 1;
    const tilt = event.pointerType === "pen" ? 1 - event.altitudeAngle / (Math.PI / 2) : 0;
    const row = drawn.rows.at(-1) ?? [];
    row.push(rowOf(spot, pressure, Math.round(Math.max(0, event.timeStamp - drawn.began)), tilt));
    // One that is too long for a stroke goes on in another.
    if (row.length >= LONGEST) drawn.rows.push(row.slice(-1));
  }

  protected tries(): Edit[] | null {
    return this.drawn && this.edits(this.drawn, useStore.getState());
  }

  private edits(drawn: Drawn, s: State): Edit[] {
    const { drawing } = s;
    if (!drawing) return [];
    const rows = drawn.rows.filter((row) => row.length > 0);
    const all = [...rows, ...rows.map((row) => mirrored(row, s, this.view)).filter((row) => row !== null)];
    return all.map((row) => ({ edit: "add_stroke", ...drawing, stroke: strokeAlong(s, row, drawn.turned) }));
  }

  private show({ at, normal }: Place, s: State): void {
    for (const line of [this.shade, this.ring, this.core]) {
      line.position.copy(at);
      line.lookAt(at.clone().add(normal));
      line.visible = true;
    }
    this.size(s);
    const px = this.under.seen(at);
    this.says.style.transform = `translate(${px.x}px, ${px.y}px)`;
    this.view.invalidate();
  }

  private size(s: State): void {
    const specs = brushSpecs(s, "stroke");
    const number = (key: string) => {
      const spec = specs.find((p) => p.key === key);
      return spec ? Number(brushValue(s, spec)) : 0;
    };
    const along = laidAlong(s);
    const [radius, hardness] = along === null ? [number("radius"), number("hardness")] : [along, 0];
    this.ring.scale.setScalar(radius);
    this.shade.scale.setScalar(radius + this.under.length(this.ring.position));
    this.core.scale.setScalar(Math.max(radius * hardness, 1e-3));
    this.says.hidden = false;
    const filled = fills(s);
    this.says.textContent = filled ?? `${shownNumber(radius * 2)} mm`;
    this.ring.visible = this.shade.visible = filled === null;
    this.view.host.dataset["brush"] = this.says.textContent;
  }

  private readonly hide = (): void => {
    if (this.drawn) return;
    for (const line of [this.shade, this.ring, this.core]) line.visible = false;
    this.says.hidden = true;
    delete this.view.host.dataset["brush"];
    this.view.invalidate();
  };
}

/** A circle of radius 1 around z. */
function circle(color: number): LineLoop {
  const points = Array.from({ length: AROUND }, (_, i) => {
    const turn = (i / AROUND) * Math.PI * 2;
    return new Vector3(Math.cos(turn), Math.sin(turn), 0);
  });
  const material = new LineBasicMaterial({ color, depthTest: false, transparent: true, toneMapped: false });
  const line = new LineLoop(new BufferGeometry().setFromPoints(points), material);
  line.renderOrder = 11;
  line.visible = false;
  return line;
}
