// A dial to turn: large in the Dials room, small among the settings of the layer that it drives.
import { ActionIcon, Tooltip } from "@mantine/core";
import { IconDice5 } from "@tabler/icons-react";

import type { Derived, Dial, Edit, ParamSpec, Value } from "../../api/types";
import { Control, isNumber } from "../../controls/Control";
import { Reset } from "../../controls/Reset";
import { spoken } from "../../controls/spoken";
import { Track } from "../../controls/Track";
import { type Turning, useTurning } from "../../controls/useTurning";
import { kindOf, specOf } from "../../state/document";
import { useStore } from "../../state/store";

interface Props {
  dial: Dial;
  value: Value;
  edit: (value: Value) => Edit;
  /** Something else sets it. */
  disabled?: boolean;
  /** The formula that it follows. */
  led?: Derived;
  handle?: React.ReactNode;
  tools?: React.ReactNode;
  note?: React.ReactNode;
}

export function Turnable({ dial, value, edit, disabled = false, led, handle, tools, note }: Props) {
  const turning = useTurning(value, edit);
  const spec = specOf(dial);
  const fixed = disabled || led !== undefined;
  return (
    <div className="dial" data-dial={dial.label}>
      <div className="dial-top">
        {handle}
        <Tooltip label={dial.help ?? ""} disabled={!dial.help} position="left" multiline maw={260}>
          <h3>{dial.label}</h3>
        </Tooltip>
        <Control spec={spec} value={turning.now} disabled={fixed} keep={turning.keep} attempt={turning.attempt} />
        {kindOf(dial) === "seed" && !fixed && <Throw spec={spec} {...turning} />}
        {fixed ? (
          <span className="dial-gap" />
        ) : (
          <Back dial={dial} spec={spec} value={value} keep={turning.keep} size={15} />
        )}
        {tools}
      </div>
      {isNumber(spec) && typeof turning.now === "number" && (
        <>
          <Track
            spec={spec}
            value={turning.now}
            size={4}
            disabled={fixed}
            keep={turning.keep}
            attempt={turning.attempt}
          />
          <span className="dial-ends">
            <span>{spoken(spec, spec.min)}</span>
            <span>{spoken(spec, spec.max)}</span>
          </span>
        </>
      )}
      {led && (
        <span className="dial-drives">
          Follows <span className="mono">{led.formula}</span>. {led.bounded}
        </span>
      )}
      {note !== undefined && <span className="dial-drives">{note}</span>}
    </div>
  );
}

/** A dial among the settings of a layer. */
export function DialSetting({ dial }: { dial: Dial }) {
  const led = useStore((s) => s.project?.derived[dial.id]);
  const value = led?.value ?? dial.value;
  const { now, keep, attempt } = useTurning<Value>(value, (v) => ({ edit: "turn_dial", dial: dial.id, value: v }));
  const spec = specOf(dial);
  const fixed = led !== undefined;
  return (
    <div className="setting" data-dial={dial.label}>
      <Tooltip label={dial.help ?? ""} disabled={!dial.help} position="left" multiline maw={260}>
        <span className="setting-label">{dial.label}</span>
      </Tooltip>
      <Control spec={spec} value={now} disabled={fixed} keep={keep} attempt={attempt} />
      {fixed ? <span /> : <Back dial={dial} spec={spec} value={value} keep={keep} size={13} />}
      <span />
      {isNumber(spec) && typeof now === "number" && (
        <Track
          className="setting-slider"
          spec={spec}
          value={now}
          size={2}
          disabled={fixed}
          keep={keep}
          attempt={attempt}
        />
      )}
      {led && (
        <span className="setting-driven">
          follows <span className="mono">{led.formula}</span>
        </span>
      )}
    </div>
  );
}

interface BackProps {
  dial: Dial;
  spec: ParamSpec;
  value: Value;
  keep: (value: Value) => void;
  size: number;
}

function Back({ dial, spec, value, keep, size }: BackProps) {
  const to = spoken(spec, dial.default);
  const changed = value !== dial.default;
  return <Reset label={dial.label} to={to} changed={changed} size={size} reset={() => keep(dial.default)} />;
}

/** Throws a seed. */
export function Throw({ spec, keep }: { spec: ParamSpec } & Turning<Value>) {
  const thrown = () => spec.min + Math.floor(Math.random() * (spec.max - spec.min + 1));
  return (
    <Tooltip label="Throw another one">
      <ActionIcon aria-label={`Throw ${spec.label}`} onClick={() => keep(thrown())}>
        <IconDice5 size={15} />
      </ActionIcon>
    </Tooltip>
  );
}
