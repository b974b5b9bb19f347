// A ramp as a bar: click it to add a stop, drag a stop or move it by the arrow keys, paste colours into it.
import { ActionIcon, Button, NumberInput, Select, Tooltip } from "@mantine/core";
import { IconTrash } from "@tabler/icons-react";
import { type PointerEvent, useRef, useState } from "react";

import type { Between, ParamSpec, RampDrive, Stop, Swatch, Target, Value } from "../api/types";
import { darkToLight, writePalette } from "../state/colors";
import { byDial, plainSpec, setParam } from "../state/document";
import { useStore } from "../state/store";
import { ColorField } from "./ColorField";
import { Drive, Follows } from "./Drive";
import { FromPicture } from "./FromPicture";
import { FromPalette } from "./Palettes";
import { NumberField } from "./NumberField";
import { useTurning } from "./useTurning";

const BETWEEN: { value: Between; label: string }[] = [
  { value: "linear", label: "straight" },
  { value: "smooth", label: "smooth" },
  { value: "stepped", label: "stepped" },
  { value: "palette", label: "as a palette" },
];
const TAKEN = 6;
const MOST = 16;
const round = (at: number) => Math.round(Math.min(1, Math.max(0, at)) * 1000) / 1000;
const sorted = (stops: Stop[]) => [...stops].sort((a, b) => a.at - b.at);

export function RampBar({ spec, drive, target }: { spec: ParamSpec; drive: RampDrive; target: Target }) {
  const bar = useRef<HTMLDivElement>(null);
  const [picked, setPicked] = useState(0);
  // What is dragged is shown on the piece before it is let go.
  const { now, attempt, keep } = useTurning<RampDrive>(drive, (next) => setParam(target, next));
  const at = Math.min(picked, now.stops.length - 1);
  const stop = now.stops[at];
  const palette = now.between === "palette";
  const dials = useStore((s) => s.project?.document.dials);
  const by = byDial(stop?.by);
  const dial = by && dials?.find((d) => d.id === by.dial);
  const [box, setBox] = useState<"picture" | "palette" | null>(null);
  const put = (stops: Stop[], follow?: Stop) => {
    // A palette's numbers are weights: its colours keep their order.
    const next = palette ? stops : sorted(stops);
    if (follow) setPicked(next.indexOf(follow));
    keep({ ...now, stops: next });
  };
  // A stop that is given a value follows no dial any more.
  const changed = (value: Value) => now.stops.map((s, i) => (i === at ? { at: s.at, value } : s));
  // Of a palette, what is often weighs much; of a ramp, the colours stand evenly.
  const lay = (colors: Swatch[]) =>
    keep({
      ...now,
      stops: colors.map(({ color, weight }, i) => ({
        at: palette ? weight : round(i / Math.max(1, colors.length - 1)),
        value: color,
      })),
    });
  const layWhole = (colors: Swatch[]) => lay(palette ? colors : darkToLight(colors));
  // What its colours follow all together, and they as one setting.
  const led = now.palette ?? null;
  const wholeTarget = { ...target, inner: "palette" };
  const kept = now.stops.map((s): Swatch => ({ color: String(s.value), weight: palette ? s.at : 1 }));
  const whole = plainSpec({
    key: "palette",
    label: "Palette",
    type: "palette",
    min: 0,
    max: 1,
    default: writePalette(kept),
  });
  const turnInto = (between: Between) => {
    const count = now.stops.length;
    const asWeights = between === "palette" && !palette;
    const asPlaces = between !== "palette" && palette;
    const stops = now.stops.map((s, i) =>
      asWeights ? { ...s, at: 1 } : asPlaces ? { ...s, at: round(count > 1 ? i / (count - 1) : 0) } : s,
    );
    keep({ ...now, between, stops });
  };
  const placeOf = (e: PointerEvent) => {
    const box = bar.current?.getBoundingClientRect();
    return box ? round((e.clientX - box.left) / box.width) : 0;
  };
  const add = (e: PointerEvent) => {
    if (e.target !== bar.current || now.stops.length >= MOST || palette) return;
    const place = placeOf(e);
    const near = [...now.stops].sort((a, b) => Math.abs(a.at - place) - Math.abs(b.at - place))[0];
    if (!near) return;
    const fresh = { at: place, value: near.value };
    put([...now.stops, fresh], fresh);
  };
  const paste = (text: string) => {
    const colors = text.match(/#[0-9a-f]{6}\b/gi)?.slice(0, MOST) ?? [];
    if (spec.type !== "color" || colors.length < 2) return false;
    lay(colors.map((c) => ({ color: c.toLowerCase(), weight: 1 })));
    return true;
  };
  return (
    <div
      className="ramp"
      onPaste={(e) => {
        if (paste(e.clipboardData.getData("text"))) e.preventDefault();
      }}
    >
      <Tooltip label="Click to add a stop; colours can be pasted here" position="top" openDelay={600}>
        <div
          ref={bar}
          className="ramp-bar"
          data-ramp={spec.key}
          style={{ background: painted(spec, now) }}
          onPointerDown={add}
        >
          {palette ? (
            <Weights stops={now.stops} picked={at} spec={spec} pick={setPicked} />
          ) : (
            now.stops.map((s, i) => (
              <Handle
                key={i}
                stop={s}
                spec={spec}
                picked={i === at}
                pick={() => setPicked(i)}
                remove={() => now.stops.length > 1 && put(now.stops.filter((o) => o !== s))}
                placeOf={placeOf}
                // A stop stays between its neighbours while it is moved.
                move={(place, done) => {
                  const [low, high] = [now.stops[i - 1]?.at ?? 0, now.stops[i + 1]?.at ?? 1];
                  const stops = now.stops.map((o, k) =>
                    k === i ? { ...o, at: Math.min(high, Math.max(low, place)) } : o,
                  );
                  (done ? keep : attempt)({ ...now, stops });
                }}
              />
            ))
          )}
        </div>
      </Tooltip>
      {stop && !led && (
        <div className="ramp-stop">
          <NumberField
            spec={PLACE}
            label={palette ? `Weight of colour ${at + 1}` : `Place of stop ${at + 1}`}
            value={stop.at}
            disabled={false}
            keep={(place) => {
              const moved = { ...stop, at: place };
              put(
                now.stops.map((s) => (s === stop ? moved : s)),
                moved,
              );
            }}
          />
          {spec.type === "color" ? (
            <ColorField
              label={`Color of stop ${at + 1}`}
              value={String(stop.value)}
              disabled={false}
              keep={(value) => put(changed(value))}
              attempt={(value) => attempt({ ...now, stops: changed(value) })}
            />
          ) : (
            <NumberField
              spec={spec}
              label={`${spec.label} of stop ${at + 1}`}
              value={Number(stop.value)}
              disabled={false}
              keep={(value) => put(changed(value))}
            />
          )}
          <Tooltip label="Take this stop out">
            <ActionIcon
              variant="transparent"
              aria-label={`Take stop ${at + 1} out`}
              disabled={now.stops.length < 2}
              onClick={() => put(now.stops.filter((s) => s !== stop))}
            >
              <IconTrash size={14} />
            </ActionIcon>
          </Tooltip>
        </div>
      )}
      {palette && spec.type === "color" && (
        <div className="row ramp-palette">
          <span>{led ? "Its colours all together" : "All its colours"}</span>
          <Drive spec={whole} value={whole.default} target={wholeTarget} drive={led} elsewhere={false} />
        </div>
      )}
      {led && <Follows spec={whole} drive={led} target={wholeTarget} />}
      {dial && <span className="setting-driven">this one follows the dial {dial.label}</span>}
      {spec.type === "color" && !led && (
        <div className="ramp-from">
          {palette && (
            <Button
              variant="default"
              disabled={now.stops.length >= MOST}
              onClick={() => {
                put([...now.stops, { at: 0.5, value: stop?.value ?? "#808080" }]);
                setPicked(now.stops.length);
              }}
            >
              Add a colour
            </Button>
          )}
          <Button variant="default" onClick={() => setBox("picture")}>
            From a picture…
          </Button>
          <Button variant="default" onClick={() => setBox("palette")}>
            From a palette…
          </Button>
        </div>
      )}
      {box === "picture" && (
        <FromPicture
          label={spec.label}
          count={TAKEN}
          take={(colors, whole) => (whole ? layWhole(colors) : lay(colors))}
          close={() => setBox(null)}
        />
      )}
      {box === "palette" && <FromPalette label={spec.label} colors={kept} take={lay} close={() => setBox(null)} />}
      <div className="row">
        <Select
          aria-label="Between stops"
          w={104}
          data={BETWEEN}
          disabled={led !== null}
          value={now.between}
          allowDeselect={false}
          onChange={(between) => between && turnInto(between as Between)}
        />
        <NumberInput
          aria-label="Times"
          w={104}
          min={1}
          max={64}
          prefix="× "
          value={now.repeat}
          onChange={(v) =>
            typeof v === "number" && v >= 1 && v <= 64 && v !== now.repeat && keep({ ...now, repeat: Math.round(v) })
          }
        />
      </div>
    </div>
  );
}

const PLACE = plainSpec({ key: "at", label: "Place", type: "number", min: 0, max: 1, default: 0 });

/** A palette's colours, each as wide as it is often. */
function Weights({
  stops,
  picked,
  spec,
  pick,
}: {
  stops: Stop[];
  picked: number;
  spec: ParamSpec;
  pick: (i: number) => void;
}) {
  return stops.map((s, i) => (
    <button
      key={i}
      className={i === picked ? "ramp-share picked" : "ramp-share"}
      style={{ flexGrow: s.at, background: spec.type === "color" ? String(s.value) : "var(--paper)" }}
      aria-label={`Colour ${i + 1}, weight ${s.at}`}
      onFocus={() => pick(i)}
      onClick={() => pick(i)}
    />
  ));
}

function Handle({
  stop,
  spec,
  picked,
  pick,
  remove,
  placeOf,
  move,
}: {
  stop: Stop;
  spec: ParamSpec;
  picked: boolean;
  pick: () => void;
  remove: () => void;
  placeOf: (e: PointerEvent) => number;
  move: (place: number, done: boolean) => void;
}) {
  // Where the pointer went down, and whether it has gone far enough since to be a drag: a click only picks the stop.
  const drag = useRef<{ from: number; moved: boolean } | null>(null);
  const arrows: Record<string, number> = { ArrowLeft: -0.01, ArrowRight: 0.01 };
  return (
    <button
      className={picked ? "ramp-handle picked" : "ramp-handle"}
      style={{ left: `${stop.at * 100}%`, background: spec.type === "color" ? String(stop.value) : "var(--paper)" }}
      aria-label={`Stop at ${stop.at}`}
      onFocus={pick}
      onPointerDown={(e) => {
        pick();
        drag.current = { from: e.clientX, moved: false };
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={(e) => {
        if (!drag.current) return;
        drag.current.moved ||= Math.abs(e.clientX - drag.current.from) >= 3;
        if (drag.current.moved) move(placeOf(e), false);
      }}
      onPointerUp={(e) => {
        if (drag.current?.moved) move(placeOf(e), true);
        drag.current = null;
      }}
      onKeyDown={(e) => {
        const by = arrows[e.key];
        if (by === undefined && e.key !== "Delete") return;
        // Elsewhere Delete takes the selected layer away.
        e.preventDefault();
        e.stopPropagation();
        if (by === undefined) remove();
        else move(round(stop.at + by), true);
      }}
    />
  );
}

/** The ramp as CSS paints it; colours are mixed in linear light, as the core mixes them. */
function painted(spec: ParamSpec, { stops, between, repeat }: RampDrive): string {
  if (between === "palette") return "none";
  const color = (s: Stop) =>
    spec.type === "color" ? String(s.value) : grey((Number(s.value) - spec.min) / (spec.max - spec.min));
  const parts = stops.flatMap((s, i) => {
    const next = stops[i + 1];
    const here = `${color(s)} ${(s.at * 100) / repeat}%`;
    return between === "stepped" && next ? [here, `${color(s)} ${(next.at * 100) / repeat}%`] : [here];
  });
  const last = stops.at(-1);
  if (last) parts.push(`${color(last)} ${100 / repeat}%`);
  const first = stops[0];
  if (first) parts.unshift(`${color(first)} 0%`);
  return `repeating-linear-gradient(in srgb-linear to right, ${parts.join(", ")})`;
}

const grey = (share: number) =>
  `color-mix(in srgb, white ${Math.round(Math.min(1, Math.max(0, share)) * 100)}%, black)`;
