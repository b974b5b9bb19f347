// A value with its unit, in words.
import type { ParamSpec, Value } from "../api/types";
import { shownNumber } from "../state/document";

/** A value with its unit, as it is read. */
export function spoken(spec: Pick<ParamSpec, "unit" | "type" | "choices">, value: Value): string {
  if (typeof value === "number") return `${shownNumber(value)}${spec.unit ? ` ${spec.unit}` : ""}`;
  if (typeof value === "boolean") return value ? "on" : "off";
  return spec.choices.find(([key]) => key === value)?.[1] ?? (String(value) || "none");
}
