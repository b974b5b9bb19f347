// A number that is typed.
import { NumberInput } from "@mantine/core";

import type { ParamSpec } from "../api/types";
import { shownNumber } from "../state/document";
import { useDraft } from "./useDraft";

/** A typed number. What lies out of range is brought to the nearest end when the field is left. */
export function NumberField({
  spec,
  value,
  disabled,
  keep,
  label = spec.label,
}: {
  spec: ParamSpec;
  value: number;
  disabled: boolean;
  keep: (v: number) => void;
  label?: string;
}) {
  const [text, setText] = useDraft<number, string | number>(value, shownNumber);
  // As wide as it is written: figures and letters are alike in width.
  const room = `max(30px, calc(${spec.unit.length}ch + 12px))`;
  const done = () => {
    const number = Number(text);
    if (text === "" || !Number.isFinite(number)) return setText(shownNumber(value));
    const whole = spec.type === "integer" ? Math.round(number) : number;
    const inside = Math.min(spec.max, Math.max(spec.min, whole));
    setText(shownNumber(inside));
    if (shownNumber(inside) !== shownNumber(value)) keep(inside);
  };
  return (
    <NumberInput
      className="value"
      {...(spec.unit ? { "data-unit": spec.unit } : {})}
      aria-label={label}
      value={text}
      disabled={disabled}
      onChange={setText}
      onBlur={done}
      onKeyDown={(e) => e.key === "Enter" && done()}
      rightSection={spec.unit ? <span className="soft mono">{spec.unit}</span> : undefined}
      {...(spec.unit ? { rightSectionWidth: room, style: { "--unit-room": room } } : {})}
      rightSectionPointerEvents="none"
    />
  );
}
