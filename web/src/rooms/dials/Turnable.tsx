// A dial to turn: large in the Dials room, small among the settings of the layer that it drives.
import { ActionIcon, Tooltip } from "@mantine/core";
import { IconDice5 } from "@tabler/icons-react";

import type { Derived, Dial, Edit, ParamSpec, Value } from "../../api/types";
import { Control, isNumber } from "../../controls/Control";
import { Reset } from "../../controls/Reset";
import { SettingRow } from "../../controls/SettingRow";
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
          <Reset
            label={dial.label}
            to={spoken(spec, dial.default)}
            changed={value !== dial.default}
            size={15}
            reset={() => turning.keep(dial.default)}
          />
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
  const turning = useTurning<Value>(value, (v) => ({ edit: "turn_dial", dial: dial.id, value: v }));
  const changed = value !== dial.default;
  return (
    <SettingRow
      data-dial={dial.label}
      spec={specOf(dial)}
      help={dial.help ?? ""}
      turning={turning}
      fixed={led !== undefined}
      back={led ? null : { to: dial.default, changed, reset: () => turning.keep(dial.default) }}
    >
      {led && (
        <span className="setting-driven">
          follows <span className="mono">{led.formula}</span>
        </span>
      )}
    </SettingRow>
  );
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
