// The control of a setting or a dial, by what it takes.
import { Select, Switch } from "@mantine/core";
import { useShallow } from "zustand/react/shallow";

import type { ParamSpec, Value } from "../api/types";
import { publishedIn } from "../state/document";
import { useStore } from "../state/store";
import { ColorField } from "./ColorField";
import { NumberField } from "./NumberField";
import { PalettePick } from "./PalettePick";
import { PicturePick } from "./PicturePick";

interface Props {
  spec: ParamSpec;
  value: Value;
  disabled: boolean;
  keep: (value: Value) => void;
  attempt: (value: Value) => void;
}

export const isNumber = (spec: ParamSpec) => spec.type === "number" || spec.type === "integer";

export function Control({ spec, value, disabled, keep, attempt }: Props) {
  const parts = useStore((s) => s.project?.piece.parts);
  const published = useStore(useShallow((s) => publishedIn(s.project?.document.layers ?? [])));
  const list = {
    className: "value",
    "aria-label": spec.label,
    disabled,
    value: String(value) || null,
    onChange: (v: string | null) => v !== null && keep(v),
  };
  const wide = { width: 200, position: "bottom-end" } as const;
  switch (spec.type) {
    case "number":
    case "integer":
      return <NumberField spec={spec} value={Number(value)} disabled={disabled} keep={keep} />;
    case "color":
      return <ColorField label={spec.label} value={String(value)} disabled={disabled} keep={keep} attempt={attempt} />;
    case "switch":
      return (
        <Switch
          aria-label={spec.label}
          checked={value === true}
          disabled={disabled}
          onChange={(e) => keep(e.currentTarget.checked)}
        />
      );
    case "choice":
      return <Select {...list} data={spec.choices.map(([key, label]) => ({ value: key, label }))} />;
    case "picture":
      return <PicturePick label={spec.label} value={String(value)} keep={keep} disabled={disabled} />;
    case "palette":
      return <PalettePick label={spec.label} value={String(value)} keep={keep} disabled={disabled} />;
    case "follow":
      return (
        <Select
          {...list}
          placeholder={published.length > 0 ? "pick" : "none published"}
          comboboxProps={wide}
          data={published}
        />
      );
    case "part":
      return <Select {...list} placeholder="pick" comboboxProps={wide} data={(parts ?? []).map((p) => p.name)} />;
  }
}
