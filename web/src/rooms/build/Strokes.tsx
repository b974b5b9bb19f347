// What was drawn in a step: a list, the last stroke first, to be restyled, moved, hidden and taken away.
import { ActionIcon, Button, Tooltip } from "@mantine/core";
import { IconArrowDown, IconArrowUp, IconBucketDroplet, IconEye, IconEyeOff, IconTrash } from "@tabler/icons-react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useShallow } from "zustand/react/shallow";

import { api } from "../../api/client";
import type { Layer, ParamSpec, Step, Stroke, StrokeView, Value } from "../../api/types";
import { SettingRow } from "../../controls/SettingRow";
import { useTurning } from "../../controls/useTurning";
import { commit, glanceAt, lookAway } from "../../state/actions";
import { askedOfBrush, brushSpecs, forStep, isPath, pathOf, takeUp } from "../../state/brush";
import { effective, shownNumber } from "../../state/document";
import { busy, useStore } from "../../state/store";
import { BrushSetting } from "./BrushStrip";

const NO_STROKES: Stroke[] = [];
/** As many are listed before one asks for all. */
const FIRST = 40;

interface Place {
  layer: string;
  step: string;
}

export function Strokes({ layer, step }: { layer: Layer; step: Step }) {
  const strokes = step.strokes ?? NO_STROKES;
  const picked = useStore((s) => s.strokes);
  const setPicked = (strokes: string[]) => useStore.setState({ strokes });
  const [all, setAll] = useState(false);
  const drawing = useStore((s) => s.drawing?.step === step.id);
  const place = { layer: layer.id, step: step.id };
  const chosen = strokes.filter((s) => picked.includes(s.id ?? ""));
  const pick = (id: string, more: boolean) =>
    setPicked(
      more
        ? picked.includes(id)
          ? picked.filter((p) => p !== id)
          : [...picked, id]
        : picked[0] === id && picked.length === 1
          ? []
          : [id],
    );
  const setting = useStore(pathOf);
  const listed = [...strokes].reverse().slice(0, all ? undefined : FIRST);
  const seen = useSeen(place, listed);
  return (
    <>
      <div className="block">
        <div className="channel-head">
          <h2>{strokes.length === 0 ? "Nothing drawn yet" : `${strokes.length} drawn`}</h2>
          <Button variant={drawing ? "filled" : "default"} aria-pressed={drawing} onClick={() => void takeUp(layer)}>
            Draw (B)
          </Button>
        </div>
        {setting && (
          <p className="soft">
            Click from point to point; drag one to move it. Enter ends the path, a click on its first point closes it,
            Backspace takes the last one back, Escape leaves it.
          </p>
        )}
        {strokes.length === 0 && !setting && (
          <p className="soft">
            {step.kind === "pin"
              ? "Draw the way that the picture is laid along; Shift goes on straight from the last end."
              : "Draw on the piece with the pen or the mouse. [ and ] turn the size, with Shift the hardness; Alt takes away; Shift goes on straight from the last end."}
          </p>
        )}
        {strokes.length > 0 && (
          <ul className="strokes" aria-label="Strokes, the last one first">
            {listed.map((s) => (
              <One
                key={s.id}
                stroke={s}
                seen={seen.get(s.id ?? "")}
                styled={step.kind === "strokes"}
                place={place}
                at={strokes.indexOf(s)}
                of={strokes.length}
                picked={picked.includes(s.id ?? "")}
                pick={pick}
              />
            ))}
          </ul>
        )}
        {strokes.length > FIRST && !all && (
          <Button variant="subtle" onClick={() => setAll(true)}>
            All {strokes.length}
          </Button>
        )}
      </div>
      {drawing && <Hand />}
      {chosen.length > 0 && (
        <Restyle
          key={picked.join()}
          place={place}
          chosen={chosen}
          styled={step.kind === "strokes"}
          done={() => setPicked([])}
        />
      )}
    </>
  );
}

/** What some strokes look like in small, by their ids. */
function useSeen(place: Place, strokes: Stroke[]): Map<string, StrokeView> {
  const project = useStore((s) => s.project?.id);
  const ids = strokes.map((s) => s.id ?? "");
  const looks = strokes.map((s) => [s.id, s.points, s.radius, s.led, s.closed]);
  const { data, isFetching } = useQuery({
    queryKey: ["strokes", project, place, looks],
    queryFn: () => api.strokesSeen(project ?? 0, { ...place, strokes: ids }),
    enabled: project !== undefined && ids.length > 0,
    placeholderData: keepPreviousData,
  });
  useEffect(() => (isFetching ? busy() : undefined), [isFetching]);
  return new Map(data?.map((s) => [s.id, s]));
}

/** A stroke’s line in small, as wide as it is drawn. */
function Small({ seen, radius }: { seen: StrokeView | undefined; radius: number }) {
  const [x, y, width, height] = seen?.bounds ?? [0, 0, 1, 1];
  // Of two points at one place, so that a single one is a dot.
  const line = seen?.line.length === 1 ? [...seen.line, ...seen.line] : (seen?.line ?? []);
  return (
    <svg className="small-stroke" viewBox={`${x} ${y} ${width} ${height}`} aria-hidden>
      <polyline points={line.join(" ")} style={{ strokeWidth: Math.max(radius * 2, Math.max(width, height) / 24) }} />
    </svg>
  );
}

function One({
  stroke,
  seen,
  styled,
  place,
  at,
  of,
  picked,
  pick,
}: {
  stroke: Stroke;
  seen: StrokeView | undefined;
  /** Whether how the brush stood says anything of it. */
  styled: boolean;
  place: Place;
  at: number;
  of: number;
  picked: boolean;
  pick: (id: string, more: boolean) => void;
}) {
  const id = stroke.id ?? "";
  const shown = stroke.shown ?? true;
  const covers = useStore((s) => brushSpecs(s, "stroke").find((p) => p.key === "covers"));
  const filled =
    styled && stroke.covers !== "way" ? covers?.choices.find(([key]) => key === stroke.covers)?.[1] : undefined;
  const tip = stroke.tip && stroke.tip !== "round" ? `${stroke.tip} ` : "";
  const name = styled ? `${stroke.take ? "Takes away" : "Adds"} ${id}` : id;
  const move = (index: number) => void commit({ edit: "move_stroke", ...place, stroke: id, index });
  const tool = (label: string, icon: React.ReactNode, act: () => void, off = false) => (
    <Tooltip label={label}>
      <ActionIcon size={18} aria-label={`${label}: ${name}`} disabled={off} onClick={act}>
        {icon}
      </ActionIcon>
    </Tooltip>
  );
  return (
    <li
      className={picked ? "picked" : undefined}
      data-stroke={id}
      onMouseEnter={() => shown && glanceAt({ edit: "set_strokes", ...place, strokes: [id], change: { shown: false } })}
      onMouseLeave={lookAway}
    >
      <button
        className="stroke-name"
        aria-pressed={picked}
        onClick={(e) => pick(id, e.shiftKey || e.ctrlKey || e.metaKey)}
      >
        {filled ? (
          <IconBucketDroplet size={18} className="small-stroke" />
        ) : (
          <Small seen={seen} radius={stroke.radius} />
        )}
        <span className="mono">
          {styled ? (stroke.take ? "− " : "+ ") : ""}
          {id}
        </span>
        {styled && (
          <small className="mono soft">
            {filled ?? `${tip}${isPath(stroke.led) ? "path " : ""}${shownNumber(stroke.radius * 2)} mm`}
          </small>
        )}
      </button>
      {tool("Lay it higher", <IconArrowUp size={13} />, () => move(at + 1), at + 1 >= of)}
      {tool("Lay it lower", <IconArrowDown size={13} />, () => move(at - 1), at === 0)}
      {tool(
        shown ? "Hide" : "Show",
        shown ? <IconEye size={13} /> : <IconEyeOff size={13} />,
        () => void commit({ edit: "set_strokes", ...place, strokes: [id], change: { shown: !shown } }),
      )}
      {tool("Remove", <IconTrash size={13} />, () => void commit({ edit: "remove_strokes", ...place, strokes: [id] }))}
    </li>
  );
}

/** How the hand is led while it draws, and what of the brush is seldom turned. */
function Hand() {
  const asked = useStore(useShallow(askedOfBrush));
  const hand = useStore((s) => brushSpecs(s, "hand"));
  return (
    <div className="block hand" data-testid="hand">
      {[...asked.filter((spec) => spec.group !== ""), ...hand].map((spec) => (
        <BrushSetting key={spec.key} spec={spec} />
      ))}
    </div>
  );
}

/** The settings of the strokes that are picked; what is turned, all of them take. */
function Restyle({
  place,
  chosen,
  styled,
  done,
}: {
  place: Place;
  chosen: Stroke[];
  /** Whether how the brush stood says anything of them. */
  styled: boolean;
  done: () => void;
}) {
  const specs = useStore((s) => brushSpecs(s, "stroke"));
  const ids = chosen.map((s) => s.id ?? "");
  return (
    <div className="block" data-testid="restyle">
      <div className="channel-head">
        <h2>{chosen.length === 1 ? "This stroke" : `${chosen.length} strokes`}</h2>
        <Button
          variant="default"
          onClick={() => {
            void commit({ edit: "remove_strokes", ...place, strokes: ids });
            done();
          }}
        >
          Remove
        </Button>
      </div>
      {effective(forStep(specs, styled), (spec) => valueOf(chosen[0], spec)).map((spec) => (
        <Row key={spec.key} spec={spec} place={place} ids={ids} value={valueOf(chosen[0], spec)} />
      ))}
    </div>
  );
}

const valueOf = (stroke: Stroke | undefined, spec: ParamSpec): Value =>
  (stroke?.[spec.key as keyof Stroke] as Value | undefined) ?? spec.default;

function Row({ spec, place, ids, value }: { spec: ParamSpec; place: Place; ids: string[]; value: Value }) {
  const turning = useTurning<Value>(value, (v) => ({
    edit: "set_strokes",
    ...place,
    strokes: ids,
    change: { [spec.key]: v },
  }));
  return (
    <SettingRow
      data-setting={spec.key}
      spec={spec}
      help={spec.help}
      turning={turning}
      back={{ to: spec.default, changed: value !== spec.default, reset: () => turning.keep(spec.default) }}
    />
  );
}
