// How a layer varies what lies below it, in six controls.
import { Tooltip } from "@mantine/core";

import type { ParamSpec, Value, Variation } from "../../api/types";
import { Control, isNumber } from "../../controls/Control";
import { Reset } from "../../controls/Reset";
import { spoken } from "../../controls/spoken";
import { Track } from "../../controls/Track";
import { useTurning } from "../../controls/useTurning";
import { useStore } from "../../state/store";
import { Throw } from "../dials/Turnable";

interface Props {
  layer: string;
  variation: Variation;
}

export function Vary({ layer, variation }: Props) {
  const specs = useStore((s) => s.catalog.find((e) => e.family === "variation")?.params);
  return (
    <div className="block" data-testid="vary">
      {specs?.map((spec) => (
        <One key={spec.key} layer={layer} variation={variation} spec={spec} />
      ))}
    </div>
  );
}

function One({ layer, variation, spec }: Props & { spec: ParamSpec }) {
  const value = variation[spec.key as keyof Variation];
  const { now, keep, attempt } = useTurning<Value>(value, (v) => ({
    edit: "vary",
    layer,
    variation: { ...variation, [spec.key]: v },
  }));
  const changed = value !== spec.default;
  return (
    <div className="setting" data-setting={spec.key}>
      <Tooltip label={spec.help} position="left" multiline maw={260}>
        <span className="setting-label">{spec.label}</span>
      </Tooltip>
      <Control spec={spec} value={now} disabled={false} keep={keep} attempt={attempt} />
      <Reset
        label={spec.label}
        to={spoken(spec, spec.default)}
        changed={changed}
        size={13}
        reset={() => keep(spec.default)}
      />
      {spec.key === "seed" ? <Throw spec={spec} now={now} keep={keep} attempt={attempt} /> : <span />}
      {isNumber(spec) && spec.key !== "seed" && typeof now === "number" && (
        <Track
          className="setting-slider"
          spec={spec}
          value={now}
          size={2}
          disabled={false}
          keep={keep}
          attempt={attempt}
        />
      )}
    </div>
  );
}
