// A value as it is read where many stand side by side: colours are shown, all else is said.
import type { ParamSpec, Value } from "../api/types";
import { readPalette } from "../state/colors";
import { Swatches } from "./Palettes";
import { spoken } from "./spoken";

export function Said({ spec, value }: { spec: ParamSpec; value: Value }) {
  if (spec.type === "color")
    return <i className="said-color" style={{ background: String(value) }} title={String(value)} />;
  if (spec.type === "palette") return <Swatches colors={readPalette(String(value))} />;
  return <>{spoken(spec, value)}</>;
}
