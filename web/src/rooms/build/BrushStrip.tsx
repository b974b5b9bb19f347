// The strip above the mask line while the brush is taken up: its few settings.
import { Button, Tooltip } from "@mantine/core";
import { useShallow } from "zustand/react/shallow";

import type { ParamSpec } from "../../api/types";
import { Control } from "../../controls/Control";
import { askedOfBrush, brushValue, laidAlong, putDown, setBrush } from "../../state/brush";
import { useStore } from "../../state/store";

export function BrushStrip() {
  const specs = useStore(useShallow(askedOfBrush));
  const drawing = useStore((s) => s.drawing !== null);
  const forPin = useStore((s) => laidAlong(s) !== null);
  if (!drawing) return null;
  return (
    <div className="brush-strip" data-testid="brush">
      {specs
        .filter((spec) => spec.group === "")
        .map((spec) => (
          <BrushSetting key={spec.key} spec={spec} />
        ))}
      {forPin && <p className="soft">Draw the way that the pin’s picture is laid along.</p>}
      <Tooltip label="Put the brush down (B)">
        <Button variant="default" onClick={putDown}>
          Done
        </Button>
      </Tooltip>
    </div>
  );
}

/** A setting of the brush, or of the hand that leads it. */
export function BrushSetting({ spec }: { spec: ParamSpec }) {
  const value = useStore((s) => brushValue(s, spec));
  const keep = (v: typeof value) => setBrush(spec.key, v);
  return (
    <div className="brush-setting" data-brush={spec.key}>
      <Tooltip label={spec.help} multiline maw={240}>
        <span>{spec.label}</span>
      </Tooltip>
      <Control spec={spec} value={value} disabled={false} keep={keep} attempt={keep} />
    </div>
  );
}
