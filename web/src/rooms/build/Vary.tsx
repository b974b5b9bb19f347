// How a layer varies what lies below it, in six controls.
import type { ParamSpec, Value, Variation } from "../../api/types";
import { SettingRow } from "../../controls/SettingRow";
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
  const turning = useTurning<Value>(value, (v) => ({
    edit: "vary",
    layer,
    variation: { ...variation, [spec.key]: v },
  }));
  const seed = spec.key === "seed";
  return (
    <SettingRow
      data-setting={spec.key}
      spec={spec}
      help={spec.help}
      turning={turning}
      track={!seed}
      back={{ to: spec.default, changed: value !== spec.default, reset: () => turning.keep(spec.default) }}
      tool={seed ? <Throw spec={spec} {...turning} /> : undefined}
    />
  );
}
