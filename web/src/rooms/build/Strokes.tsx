// What was drawn in a step: a list, the last stroke first, to be restyled, moved, hidden and taken away.
import { ActionIcon, Button, Tooltip } from "@mantine/core";
import { IconArrowDown, IconArrowUp, IconEye, IconEyeOff, IconTrash } from "@tabler/icons-react";
import { useState } from "react";

import type { Layer, ParamSpec, Step, Stroke, Value } from "../../api/types";
import { SettingRow } from "../../controls/SettingRow";
import { useTurning } from "../../controls/useTurning";
import { commit, glanceAt, lookAway } from "../../state/actions";
import { brushSpecs, takeUp } from "../../state/brush";
import { shownNumber } from "../../state/document";
import { useStore } from "../../state/store";
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
  const listed = [...strokes].reverse().slice(0, all ? undefined : FIRST);
  return (
    <>
      <div className="block">
        <div className="channel-head">
          <h2>{strokes.length === 0 ? "Nothing drawn yet" : `${strokes.length} drawn`}</h2>
          <Button variant={drawing ? "filled" : "default"} aria-pressed={drawing} onClick={() => void takeUp(layer)}>
            Draw (B)
          </Button>
        </div>
        {strokes.length === 0 && (
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
      {chosen.length > 0 && step.kind === "strokes" && (
        <Restyle key={picked.join()} place={place} chosen={chosen} done={() => setPicked([])} />
      )}
    </>
  );
}

function One({
  stroke,
  styled,
  place,
  at,
  of,
  picked,
  pick,
}: {
  stroke: Stroke;
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
        <span className="mono">
          {styled ? (stroke.take ? "− " : "+ ") : ""}
          {id}
        </span>
        {styled && (
          <small className="mono soft">
            {stroke.tip && stroke.tip !== "round" ? `${stroke.tip} ` : ""}
            {shownNumber(stroke.radius * 2)} mm
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

/** How the hand is led while it draws. */
function Hand() {
  const specs = useStore((s) => brushSpecs(s, "hand"));
  return (
    <div className="block hand" data-testid="hand">
      {specs.map((spec) => (
        <BrushSetting key={spec.key} spec={spec} />
      ))}
    </div>
  );
}

/** The settings of the strokes that are picked; what is turned, all of them take. */
function Restyle({ place, chosen, done }: { place: Place; chosen: Stroke[]; done: () => void }) {
  const catalog = useStore((s) => s.catalog);
  const specs = brushSpecs({ ...useStore.getState(), catalog }, "stroke");
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
      {specs.map((spec) => (
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
