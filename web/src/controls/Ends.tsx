// What a setting is at the two ends of what drives it.
import { NumberInput } from "@mantine/core";

import type { ParamSpec } from "../api/types";
import { shownNumber } from "../state/document";

const OF_DIAL: readonly [string, string] = ["at the low end", "at the high end"];

/** What the setting is at the two ends of what drives it. */
export function Ends({
  spec,
  ends = OF_DIAL,
  low,
  high,
  set,
}: {
  spec: ParamSpec;
  ends?: readonly [string, string];
  low: number;
  high: number;
  set: (low: number, high: number) => void;
}) {
  const field = (label: string, value: number, put: (v: number) => void) => (
    <NumberInput
      label={label}
      value={Number(shownNumber(value))}
      suffix={spec.unit ? ` ${spec.unit}` : ""}
      min={spec.min}
      max={spec.max}
      clampBehavior="blur"
      onChange={(v) => typeof v === "number" && put(Math.min(spec.max, Math.max(spec.min, v)))}
    />
  );
  return (
    <div className="pair">
      {field(`${spec.label} ${ends[0]}`, low, (v) => set(v, high))}
      {field(`${spec.label} ${ends[1]}`, high, (v) => set(low, v))}
    </div>
  );
}
