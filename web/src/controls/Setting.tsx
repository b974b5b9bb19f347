// One setting, drawn from its description: label, value, unit, slider, reset and drive. A drag shows while it lasts and is kept when it ends.
import type { Param, ParamSpec, Target } from "../api/types";
import { commit } from "../state/actions";
import { byColors, byDrive, byMask, byRamp, isDriven, setParam, standing } from "../state/document";
import { useStore } from "../state/store";
import { isNumber } from "./Control";
import { Drive, Follows } from "./Drive";
import { SettingRow } from "./SettingRow";
import { spoken } from "./spoken";
import { useTurning } from "./useTurning";
import { Colored, Ramped, Varying } from "./Varying";

interface Props {
  spec: ParamSpec;
  param: Param | undefined;
  target: Target;
  /** The settings of readings belong to the project: they are not driven, and only a value that is let go is measured. */
  drivable?: boolean;
}

export function Setting({ spec, param, target, drivable = true }: Props) {
  const project = useStore((s) => s.project);
  const value = standing(spec, param, target, project?.standings ?? []);
  const driven = isDriven(param);
  const [drive, mask, ramp, colors] = [byDrive(param), byMask(param), byRamp(param), byColors(param)];
  const changed = driven || (param !== undefined && param !== spec.default);
  const turning = useTurning(value, (next) => setParam(target, next), drivable);
  const instead = mask ? (
    <span className="mono setting-ends">
      {spoken(spec, mask.low)} – {spoken(spec, mask.high)}
    </span>
  ) : ramp ? (
    <span className="setting-ends">
      {ramp.stops.length} {ramp.between === "palette" ? "colours" : "stops"}
    </span>
  ) : colors ? (
    <span className="setting-ends">a picture</span>
  ) : undefined;
  return (
    <SettingRow
      data-setting={spec.key}
      spec={spec}
      help={describe(spec)}
      turning={turning}
      fixed={driven}
      instead={instead}
      back={{ to: spec.default, changed, reset: () => void commit(setParam(target, null)) }}
      tool={
        drivable &&
        spec.type !== "follow" && (
          <Drive
            spec={spec}
            value={mask ? mask.high : (ramp?.stops[0]?.value ?? value)}
            target={target}
            drive={drive}
            elsewhere={instead !== undefined}
          />
        )
      }
    >
      {drive && <Follows spec={spec} drive={drive} target={target} />}
      {mask && <Varying spec={spec} drive={mask} target={target} />}
      {ramp && <Ramped spec={spec} drive={ramp} target={target} />}
      {colors && <Colored spec={spec} drive={colors} target={target} />}
    </SettingRow>
  );
}

const describe = (spec: ParamSpec) =>
  isNumber(spec)
    ? `${spec.help} From ${spoken(spec, spec.min)} to ${spoken(spec, spec.max)}; ${spoken(spec, spec.default)} by default.`
    : spec.help;
