// One setting, drawn from its description: label, value, unit, slider, reset and drive. A drag shows while it lasts and is kept when it ends.
import { ActionIcon, Select, Tooltip } from "@mantine/core";
import { IconRotate2 } from "@tabler/icons-react";
import { useShallow } from "zustand/react/shallow";

import type { Param, ParamSpec, Target, Value } from "../api/types";
import { commit } from "../state/actions";
import { byColors, byDial, byMask, byRamp, isDriven, publishedIn, setParam, standing } from "../state/document";
import { useStore } from "../state/store";
import { ColorField } from "./ColorField";
import { Drive } from "./Drive";
import { NumberField } from "./NumberField";
import { PicturePick } from "./PicturePick";
import { spoken } from "./spoken";
import { Track } from "./Track";
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
  const [drive, mask, ramp, colors] = [byDial(param), byMask(param), byRamp(param), byColors(param)];
  const dial = drive && project?.document.dials.find((d) => d.id === drive.dial);
  const changed = driven || (param !== undefined && param !== spec.default);
  const { now, keep, attempt } = useTurning(value, (next) => setParam(target, next), drivable);
  return (
    <div className="setting" data-setting={spec.key}>
      <Tooltip label={describe(spec)} position="left" multiline maw={260}>
        <span className="setting-label">{spec.label}</span>
      </Tooltip>
      {mask ? (
        <span className="mono setting-ends">
          {spoken(spec, mask.low)} – {spoken(spec, mask.high)}
        </span>
      ) : ramp ? (
        <span className="setting-ends">
          {ramp.stops.length} {ramp.between === "palette" ? "colours" : "stops"}
        </span>
      ) : colors ? (
        <span className="setting-ends">a picture</span>
      ) : (
        <Control spec={spec} value={now} disabled={driven} keep={keep} attempt={attempt} />
      )}
      <Tooltip label={changed ? `Back to ${spoken(spec, spec.default)}` : "At its default"}>
        <ActionIcon
          aria-label={`Reset ${spec.label}`}
          disabled={!changed}
          variant="transparent"
          onClick={() => void commit(setParam(target, null))}
        >
          <IconRotate2 size={13} />
        </ActionIcon>
      </Tooltip>
      {drivable &&
      spec.type !== "choice" &&
      spec.type !== "part" &&
      spec.type !== "follow" &&
      spec.type !== "picture" ? (
        <Drive
          spec={spec}
          value={mask ? mask.high : (ramp?.stops[0]?.value ?? value)}
          target={target}
          driven={drive}
          elsewhere={mask !== null || ramp !== null || colors !== null}
        />
      ) : (
        <span />
      )}
      {isNumber(spec) && mask === null && ramp === null && typeof now === "number" && (
        <Track
          className="setting-slider"
          spec={spec}
          value={now}
          size={2}
          disabled={driven}
          keep={keep}
          attempt={attempt}
        />
      )}
      {drive && (
        <span className="setting-driven">
          driven by the dial {dial?.label ?? "that is gone"}
          {drive.low !== undefined &&
            drive.high !== undefined &&
            `: ${spoken(spec, drive.low)} to ${spoken(spec, drive.high)}`}
        </span>
      )}
      {mask && <Varying spec={spec} drive={mask} target={target} />}
      {ramp && <Ramped spec={spec} drive={ramp} target={target} />}
      {colors && <Colored spec={spec} drive={colors} target={target} />}
    </div>
  );
}

const describe = (spec: ParamSpec) =>
  isNumber(spec)
    ? `${spec.help} From ${spoken(spec, spec.min)} to ${spoken(spec, spec.max)}; ${spoken(spec, spec.default)} by default.`
    : spec.help;

export const isNumber = (spec: ParamSpec) => spec.type === "number" || spec.type === "integer";

interface ControlProps {
  spec: ParamSpec;
  value: Value;
  disabled: boolean;
  keep: (value: Value) => void;
  attempt: (value: Value) => void;
}

function Control({ spec, value, disabled, keep, attempt }: ControlProps) {
  const parts = useStore((s) => s.project?.piece.parts);
  const published = useStore(useShallow((s) => publishedIn(s.project?.document.layers ?? [])));
  switch (spec.type) {
    case "number":
    case "integer":
      return <NumberField spec={spec} value={Number(value)} disabled={disabled} keep={keep} />;
    case "color":
      return <ColorField label={spec.label} value={String(value)} disabled={disabled} keep={keep} attempt={attempt} />;
    case "choice":
      return (
        <Select
          className="value"
          aria-label={spec.label}
          data={spec.choices.map(([key, label]) => ({ value: key, label }))}
          value={String(value)}
          onChange={(v) => v !== null && keep(v)}
        />
      );
    case "picture":
      return <PicturePick label={spec.label} value={String(value)} keep={keep} />;
    case "follow":
      return (
        <Select
          className="value"
          aria-label={spec.label}
          placeholder={published.length > 0 ? "pick" : "none published"}
          comboboxProps={{ width: 200, position: "bottom-end" }}
          data={published}
          value={String(value) || null}
          onChange={(v) => v !== null && keep(v)}
        />
      );
    case "part":
      return (
        <Select
          className="value"
          aria-label={spec.label}
          placeholder="pick"
          comboboxProps={{ width: 200, position: "bottom-end" }}
          data={(parts ?? []).map((p) => p.name)}
          value={String(value) || null}
          onChange={(v) => v !== null && keep(v)}
        />
      );
  }
}
