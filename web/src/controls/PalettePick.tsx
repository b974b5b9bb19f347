// The colours of a palette as a value: taken from one of the project's palettes.
import { Select } from "@mantine/core";

import { readPalette, writePalette } from "../state/colors";
import { usePalettes, Swatches } from "./Palettes";

interface Props {
  label: string;
  value: string;
  disabled?: boolean;
  /** It says its label above itself. */
  labelled?: boolean;
  keep: (value: string) => void;
}

export function PalettePick({ label, value, disabled = false, labelled = false, keep }: Props) {
  const palettes = usePalettes();
  const kept = palettes.map((p) => ({ value: writePalette(p.colors), label: p.name }));
  const known = kept.some((k) => k.value === value);
  const data = known ? kept : [{ value, label: "its own" }, ...kept];
  return (
    <span className="palette-pick">
      {labelled && <span className="soft">{label}</span>}
      <Select
        leftSection={<Swatches colors={readPalette(value)} />}
        leftSectionWidth={50}
        leftSectionPointerEvents="none"
        aria-label={label}
        disabled={disabled}
        data={data.filter((d, i) => data.findIndex((o) => o.value === d.value) === i)}
        value={value}
        allowDeselect={false}
        comboboxProps={{ width: 240, position: "bottom-end" }}
        renderOption={({ option }) => (
          <span className="palette-option">
            <span className="snapshot-name">{option.label}</span>
            <Swatches colors={readPalette(option.value)} />
          </span>
        )}
        onChange={(v) => v !== null && v !== value && keep(v)}
      />
    </span>
  );
}
