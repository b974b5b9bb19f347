// The weather of the project: a compass on which wind and front are turned, and its numbers. What is measured below follows it.
import { type KeyboardEvent, type PointerEvent, useState } from "react";

import type { ParamSpec, ProjectView, Value } from "../../api/types";
import { follow } from "../../controls/follow";
import { Setting } from "../../controls/Setting";
import { commit } from "../../state/actions";
import { setParam } from "../../state/document";
import { useStore } from "../../state/store";

const KIND = "weather";
/** Radius of the ring on which the wind is turned, and of the one for the front. */
const RING = 52;
const INNER = 30;
const POINTS = [
  ["N", 0],
  ["E", 90],
  ["S", 180],
  ["W", 270],
] as const;

export function Weather({ project }: { project: ProjectView }) {
  const specs = useStore((s) => s.catalog.find((e) => e.family === "weather")?.params);
  const settings = project.document.readings[KIND] ?? {};
  if (!specs) return null;
  const stands = (key: string) => {
    const value = settings[key] ?? specs.find((s) => s.key === key)?.default;
    return typeof value === "number" ? value : 0;
  };
  return (
    <section className="weather" aria-label="Weather">
      <div className="panel-head" style={{ borderTop: "1px solid var(--hairline)" }}>
        <span>Weather</span>
      </div>
      <Compass specs={specs} wind={stands("wind")} turns={stands("turns")} facing={stands("facing")} />
      <p className="hint">
        Turn the round ends: the green one is where the wind comes from, the dark one where the front looks.
      </p>
      <div className="block">
        {specs.map((spec) => (
          <Setting
            key={spec.key}
            spec={spec}
            param={settings[spec.key]}
            target={{ reading: KIND, key: spec.key }}
            drivable={false}
          />
        ))}
      </div>
    </section>
  );
}

/** A place on the compass: north is up. */
const at = (bearing: number, radius: number): [number, number] => {
  const a = (bearing / 180) * Math.PI;
  return [Math.sin(a) * radius, -Math.cos(a) * radius];
};

/** The part of a ring to both sides of a bearing. */
function sector(bearing: number, turns: number): string {
  if (turns >= 179.5) return `M 0 ${-RING} A ${RING} ${RING} 0 1 1 -0.01 ${-RING} Z`;
  const [x0, y0] = at(bearing - turns, RING);
  const [x1, y1] = at(bearing + turns, RING);
  return `M 0 0 L ${x0} ${y0} A ${RING} ${RING} 0 ${turns > 90 ? 1 : 0} 1 ${x1} ${y1} Z`;
}

interface CompassProps {
  specs: ParamSpec[];
  wind: number;
  turns: number;
  facing: number;
}

function Compass({ specs, wind, turns, facing }: CompassProps) {
  const [turned, setTurned] = useState<{ key: string; to: number } | null>(null);
  const now = (key: string, value: number) => (turned?.key === key ? turned.to : value);
  const keep = (key: string, to: Value) => void commit(setParam({ reading: KIND, key }, to));
  const handle = (key: string, value: number) => ({
    role: "slider",
    tabIndex: 0,
    "aria-label": `${specs.find((s) => s.key === key)?.label ?? key}, on the compass`,
    "aria-valuemin": 0,
    "aria-valuemax": 360,
    "aria-valuenow": Math.round(value),
    "aria-valuetext": `${Math.round(value)}°`,
    onPointerDown: (e: PointerEvent<SVGGElement>) => {
      const box = e.currentTarget.ownerSVGElement?.getBoundingClientRect();
      if (!box || e.button !== 0) return;
      let to = value;
      follow(
        e,
        (p) => {
          const [x, y] = [p.clientX - box.left - box.width / 2, p.clientY - box.top - box.height / 2];
          to = Math.round((Math.atan2(x, -y) / Math.PI) * 180 + 360) % 360;
          setTurned({ key, to });
        },
        (moved) => {
          setTurned(null);
          if (moved) keep(key, to);
        },
      );
    },
    onKeyDown: (e: KeyboardEvent) => {
      const by = { ArrowLeft: -5, ArrowDown: -5, ArrowRight: 5, ArrowUp: 5 }[e.key];
      if (by === undefined) return;
      e.preventDefault();
      keep(key, (value + by + 360) % 360);
    },
  });
  const [from, front] = [now("wind", wind), now("facing", facing)];
  const [fx, fy] = at(from, RING);
  const [ix, iy] = at(from, RING - 15);
  const [px, py] = at(front, INNER);
  return (
    <svg className="compass" viewBox="-78 -78 156 156" role="group" aria-label="Compass">
      <circle r={RING} className="compass-ring" />
      <path d={sector(from, turns)} className="compass-wind" />
      {POINTS.map(([letter, bearing]) => {
        const [x, y] = at(bearing, RING + 16);
        const [a, b] = [at(bearing, RING), at(bearing, RING + 6)];
        return (
          <g key={letter}>
            <line x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} className="compass-ring" />
            <text x={x} y={y + 4} textAnchor="middle">
              {letter}
            </text>
          </g>
        );
      })}
      <rect x={-11} y={-11} width={22} height={22} rx={3} className="compass-piece" transform={`rotate(${front})`} />
      <g {...handle("facing", front)} className="compass-handle">
        <title>{`The front faces ${Math.round(front)}°. Turn it.`}</title>
        <line x1={0} y1={0} x2={px} y2={py} />
        <circle cx={px} cy={py} r={6} />
      </g>
      <g {...handle("wind", from)} className="compass-handle wind">
        <title>{`Wind from ${Math.round(from)}°. Turn it.`}</title>
        <line x1={fx} y1={fy} x2={ix} y2={iy} />
        <circle cx={fx} cy={fy} r={7} />
      </g>
    </svg>
  );
}
