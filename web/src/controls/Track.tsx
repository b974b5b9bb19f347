// The slider of a number: linear or logarithmic as its description says.
import { Slider } from "@mantine/core";

import type { ParamSpec } from "../api/types";
import { fromTrack, step, toTrack } from "./scale";

interface Props {
  spec: ParamSpec;
  value: number;
  size: number;
  disabled?: boolean;
  className?: string;
  attempt: (value: number) => void;
  keep: (value: number) => void;
}

export function Track({ spec, value, size, disabled = false, className = "", attempt, keep }: Props) {
  return (
    <Slider
      className={className}
      size={size}
      label={null}
      thumbLabel={`${spec.label} slider`}
      min={0}
      max={1}
      step={step(spec)}
      value={toTrack(spec, value)}
      disabled={disabled}
      onChange={(t) => attempt(fromTrack(spec, t))}
      onChangeEnd={(t) => keep(fromTrack(spec, t))}
    />
  );
}
