// The row of one setting among others: its label, what it is set with, the way back, a tool, and the track below.
import { Tooltip } from "@mantine/core";

import type { ParamSpec, Value } from "../api/types";
import { Control, isNumber } from "./Control";
import { Reset } from "./Reset";
import { spoken } from "./spoken";
import { Track } from "./Track";
import type { Turning } from "./useTurning";

interface Props extends React.HTMLAttributes<HTMLDivElement> {
  spec: ParamSpec;
  /** What the row is called, if not as its setting. */
  label?: string;
  /** Said on pointing at the label. */
  help: string;
  turning: Turning<Value>;
  /** Something else sets it. */
  fixed?: boolean;
  /** What stands in place of the control and the track. */
  instead?: React.ReactNode;
  /** Whether a number has a track: one whose places mean nothing has none. */
  track?: boolean;
  /** The way back to the default; `null` where there is none. */
  back: { to: Value; changed: boolean; reset: () => void } | null;
  tool?: React.ReactNode;
}

export function SettingRow({
  spec,
  label = spec.label,
  help,
  turning,
  fixed = false,
  instead,
  track = true,
  back,
  tool,
  children,
  ...rest
}: Props) {
  const { now, keep, attempt } = turning;
  return (
    <div className="setting" {...rest}>
      <Tooltip label={help} disabled={help === ""} position="left" multiline maw={260}>
        <span className="setting-label">{label}</span>
      </Tooltip>
      {instead ?? <Control spec={spec} value={now} disabled={fixed} keep={keep} attempt={attempt} />}
      {back ? (
        <Reset label={label} to={spoken(spec, back.to)} changed={back.changed} size={13} reset={back.reset} />
      ) : (
        <span />
      )}
      {tool || <span />}
      {!instead && track && isNumber(spec) && typeof now === "number" && (
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
      {children}
    </div>
  );
}
