// The frame of the selected pin on the piece: dragged to move it, at its corners to size it, at its knob to turn it; by keys too.
import { BufferGeometry, LineBasicMaterial, LineSegments, Quaternion, type Vector2, Vector3 } from "three";

import type { Edit, Spot } from "../api/types";
import { commit, say, tryOut } from "../state/actions";
import { shownNumber } from "../state/document";
import { layEdits, type Lying, type Pinned, pinned, whyNot } from "../state/pin";
import { type State, useStore } from "../state/store";
import { elsewhere, Handles, HELD, nearest, seenThrough, setPoints, told } from "./handles";
import { OnPiece } from "./onPiece";
import { type Place, STRAY, type View } from "./under";

/** A side of the frame is laid on the surface at so many points. */
const ALONG = 12;
/** How far beyond the upper side the knob lies, as a share of the height, and at least, in pixels. */
const KNOB = [0.22, 26] as const;

/** What is being dragged: where it began, and how the pin lay then. */
interface Drag {
  pointer: number;
  what: "move" | "size" | "turn";
  from: Vector2;
  before: Pinned;
}

export class PinFrame extends OnPiece {
  private readonly lines = new LineSegments(new BufferGeometry(), seenThrough(new LineBasicMaterial({ color: HELD })));
  private readonly shade = new LineSegments(
    this.lines.geometry,
    seenThrough(new LineBasicMaterial({ color: 0xffffff })),
  );
  private readonly handles: Handles;
  private drag: Drag | null = null;
  /** How the pin lies while it is dragged, until the server has said so. */
  private now: Lying | null = null;
  /** Whether that is tried, and not kept yet. */
  private trying = false;
  private pressed: Vector2 | null = null;
  /** How it lay before what is tried. */
  private before: Pinned | null = null;

  constructor(view: View) {
    super(view);
    this.handles = new Handles(view.scene, 11);
    [this.shade, this.lines].forEach((thing, i) => {
      thing.renderOrder = 12 + i;
      thing.visible = false;
      thing.frustumCulled = false;
      view.scene.add(thing);
    });
    const { signal } = this;
    window.addEventListener("keydown", this.key, { signal });
    window.addEventListener("keyup", this.keyUp, { signal });
  }

  protected sync(now: State, before: State): void {
    const keys = ["project", "layer", "step", "room", "drawing", "probing", "evaluation", "camera"] as const;
    if (keys.every((key) => now[key] === before[key])) return;
    if (now.layer !== before.layer || now.step !== before.step || now.room !== before.room) this.forget();
    this.show();
  }

  /** The pin that a hand may take now. */
  private held(): Pinned | null {
    const s = useStore.getState();
    return s.drawing !== null || s.probing || s.picking ? null : pinned(s);
  }

  protected down(event: PointerEvent): void {
    const held = this.held();
    const px = this.under.pixels(event);
    this.pressed = null;
    if (!held || event.button !== 0 || this.drag) return;
    if (!held.lying.spot) {
      this.pressed = px;
      return;
    }
    const what = this.taken(px, held);
    if (!what) return;
    event.stopImmediatePropagation();
    const why = what === "move" ? null : whyNot(held, what);
    if (why !== null) return say(why);
    this.view.canvas.setPointerCapture(event.pointerId);
    this.drag = { pointer: event.pointerId, what, from: px, before: held };
  }

  protected move(event: PointerEvent): void {
    const px = this.under.pixels(event);
    const { drag } = this;
    if (!drag) return this.point(px);
    event.stopImmediatePropagation();
    if (event.pointerId !== drag.pointer) return;
    const lying = this.dragged(drag, px);
    if (lying) this.attempt(drag.before, lying);
  }

  protected up(event: PointerEvent): void {
    const px = this.under.pixels(event);
    const { drag, pressed } = this;
    this.pressed = null;
    if (pressed && pressed.distanceTo(px) <= STRAY) this.lay(px);
    if (!drag || event.pointerId !== drag.pointer) return;
    event.stopImmediatePropagation();
    this.drag = null;
    this.keep(drag.before);
  }

  /** Lays it where the piece was clicked, upright as it is seen. */
  private lay(px: Vector2): void {
    const held = this.held();
    const place = this.under.place(px);
    if (!held || !place) return;
    const upright =
      Math.abs(place.normal.y) < 0.7
        ? new Vector3(0, 1, 0)
        : new Vector3(0, 1, 0).applyQuaternion(this.view.camera.quaternion);
    const up = upright.addScaledVector(place.normal, -upright.dot(place.normal)).normalize();
    this.now = { ...held.lying, spot: spotOf(place, up) };
    this.keep(held);
  }

  /** What of the frame lies under the pointer. */
  private taken(px: Vector2, held: Pinned): Drag["what"] | null {
    const corners = this.corners(held);
    if (!corners) return null;
    const seen = corners.handles.map((at) => this.under.seen(at));
    const handle = nearest(px, seen);
    if (handle !== null) return handle === 4 ? "turn" : "size";
    return within(px, seen.slice(0, 4)) && this.under.place(px) ? "move" : null;
  }

  private dragged({ what, from, before }: Drag, px: Vector2): Lying | null {
    const { spot } = before.lying;
    if (!spot) return null;
    const place = placeOf(spot);
    if (what === "move") {
      // The pin goes along under the pointer as it was taken.
      const to = this.under.place(this.under.seen(place.at).add(px).sub(from));
      return to && { ...before.lying, spot: carried(spot, to) };
    }
    const [a, b] = [this.under.onPlane(from, place), this.under.onPlane(px, place)];
    if (!a || !b) return null;
    a.sub(place.at);
    b.sub(place.at);
    if (what === "size") {
      const size = (before.lying.size * b.length()) / Math.max(a.length(), 1e-6);
      return { ...before.lying, size: kept(size, before.sizes) };
    }
    const angle = Math.atan2(new Vector3().crossVectors(a, b).dot(place.normal), a.dot(b));
    return { ...before.lying, turn: turned(before.lying.turn + (angle * 180) / Math.PI) };
  }

  private readonly key = (event: KeyboardEvent): void => {
    if (event.key === "Escape" && this.drag) {
      event.stopPropagation();
      this.forget();
      tryOut();
      this.show();
      return;
    }
    const held = this.held();
    if (!held?.lying.spot || event.ctrlKey || event.metaKey || event.altKey || elsewhere(event.target)) return;
    const lying = this.byKey(this.now ?? held.lying, held, event);
    if (!lying) return;
    event.preventDefault();
    this.attempt(held, lying);
  };

  private readonly keyUp = (): void => {
    if (this.drag || !this.trying) return;
    const held = this.held();
    if (held) this.keep(held);
  };

  private byKey(lying: Lying, { sizes }: Pinned, { key, shiftKey }: KeyboardEvent): Lying | null {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[key];
    if (way && lying.spot) {
      const place = placeOf(lying.spot);
      const { right, up } = axes(lying);
      const step = shiftKey ? 10 : 1;
      place.at.addScaledVector(right, (way[0] ?? 0) * step).addScaledVector(up, (way[1] ?? 0) * step);
      return { ...lying, spot: carried(lying.spot, this.under.beside(place, Math.max(20, lying.size / 2)) ?? place) };
    }
    if (key === "[" || key === "]")
      return { ...lying, size: kept(lying.size * (key === "]" ? 1.05 : 1 / 1.05), sizes) };
    // As keyboards write them with Shift held.
    if (key === "{" || key === "}") return { ...lying, turn: turned(lying.turn + (key === "{" ? 5 : -5)) };
    return null;
  }

  protected tries(): Edit[] | null {
    return this.before && this.now && layEdits(this.before, this.now);
  }

  /** Shows it lying so, once a frame. */
  private attempt(before: Pinned, lying: Lying): void {
    this.now = lying;
    this.trying = true;
    this.show();
    this.before = before;
    this.trial.soon();
  }

  private keep(before: Pinned): void {
    this.trial.stop();
    this.trying = false;
    const lying = this.now;
    const edits = lying ? layEdits(before, lying) : [];
    if (edits.length === 0) {
      this.forget();
      tryOut();
      return;
    }
    void commit(...edits).then(() => {
      // Unless the next drag has begun meanwhile.
      if (this.now === lying) this.now = null;
      this.show();
    });
  }

  private forget(): void {
    this.drag = null;
    this.now = null;
    this.trying = false;
    this.trial.stop();
  }

  /** Says by the pointer what a press would take. */
  private point(px: Vector2): void {
    const held = this.held();
    if (!held) return;
    const what = held.lying.spot ? this.taken(px, held) : null;
    const laying = !held.lying.spot && this.under.place(px) !== null;
    this.view.canvas.style.cursor = laying
      ? "crosshair"
      : what
        ? { move: "move", size: "nwse-resize", turn: "grab" }[what]
        : "";
  }

  /** The frame's four corners and its knob on the surface, and its lines. */
  private corners(held: Pinned): { handles: Vector3[]; lines: Vector3[] } | null {
    const lying = this.now ?? held.lying;
    if (!lying.spot) return null;
    const { at, normal } = placeOf(lying.spot);
    const { right, up } = axes(lying);
    const [w, h] = [lying.size / 2, (lying.size * held.aspect) / 2];
    const reach = Math.max(w, h);
    const laid = (x: number, y: number): Vector3 => {
      const place = {
        at: at
          .clone()
          .addScaledVector(right, x * w)
          .addScaledVector(up, y * h),
        normal,
      };
      return (this.under.beside(place, reach)?.at ?? place.at).addScaledVector(normal, reach * 0.004);
    };
    const ring = [
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
    ] as const;
    const lines = ring.flatMap(([x, y], i) => {
      const [x1, y1] = ring[(i + 1) % 4] ?? [x, y];
      const side = Array.from({ length: ALONG + 1 }, (_, k) =>
        laid(x + ((x1 - x) * k) / ALONG, y + ((y1 - y) * k) / ALONG),
      );
      return side.slice(1).flatMap((p, k) => [side[k] ?? p, p]);
    });
    const [top, knob] = [laid(0, 1), laid(0, 1 + Math.max(2 * KNOB[0], (KNOB[1] * this.under.length(at)) / h))];
    return { handles: [...ring.map(([x, y]) => laid(x, y)), knob], lines: [...lines, top, knob] };
  }

  private show(): void {
    const held = this.held();
    const frame = held && this.corners(held);
    this.lines.visible = this.shade.visible = frame !== null;
    this.handles.show(frame?.handles ?? []);
    const { host, canvas } = this.view;
    if (frame && held) {
      setPoints(this.lines.geometry, frame.lines);
      const { size, turn } = this.now ?? held.lying;
      // For whoever watches from outside: how it lies, and where its handles are.
      host.dataset["pin"] = `${shownNumber(size)} mm, ${Math.round(turn)}°`;
      host.dataset["handles"] = told(frame.handles.map((at) => this.under.seen(at)));
    } else if (host.dataset["pin"] !== undefined) {
      delete host.dataset["pin"];
      delete host.dataset["handles"];
      canvas.style.cursor = "";
    }
    this.view.invalidate();
  }
}

const placeOf = (spot: Spot): Place => ({
  at: new Vector3(...spot.at),
  normal: new Vector3(...spot.normal).normalize(),
});

function spotOf({ at, normal }: Place, up: Vector3): Spot {
  const rounded = (v: Vector3, places: number) =>
    v.toArray().map((c) => Number(c.toFixed(places))) as [number, number, number];
  return { at: rounded(at, 3), normal: rounded(normal, 5), up: rounded(up, 5) };
}

/** The spot moved to another place, its up carried along as the normal turns. */
function carried(spot: Spot, to: Place): Spot {
  const up = new Vector3(...spot.up).applyQuaternion(
    new Quaternion().setFromUnitVectors(placeOf(spot).normal, to.normal),
  );
  return spotOf(to, up.addScaledVector(to.normal, -up.dot(to.normal)).normalize());
}

/** Right and up of the picture, turned. */
function axes({ spot, turn }: Lying): { right: Vector3; up: Vector3 } {
  const normal = new Vector3(...(spot?.normal ?? [0, 1, 0])).normalize();
  const up = new Vector3(...(spot?.up ?? [0, 0, -1]));
  up.addScaledVector(normal, -up.dot(normal)).normalize();
  const about = new Quaternion().setFromAxisAngle(normal, (turn * Math.PI) / 180);
  const right = new Vector3().crossVectors(up, normal);
  return { right: right.applyQuaternion(about), up: up.applyQuaternion(about) };
}

/** A width within its range, to three places. */
const kept = (size: number, [least, most]: [number, number]): number =>
  Number(Math.min(most, Math.max(least, size)).toPrecision(3));

/** Within −180° and 180°, to a tenth. */
const turned = (degrees: number): number => Number((((((degrees + 180) % 360) + 360) % 360) - 180).toFixed(1));

/** Whether a place lies within corners that go around. */
function within(px: Vector2, corners: Vector2[]): boolean {
  const sides = corners.map((a, i) => {
    const b = corners[(i + 1) % corners.length] ?? a;
    return (b.x - a.x) * (px.y - a.y) - (b.y - a.y) * (px.x - a.x);
  });
  return sides.every((s) => s > 0) || sides.every((s) => s < 0);
}
