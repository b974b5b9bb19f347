// The project's palettes: strips to take one colour from, and a box to lay one as a ramp's stops, to keep its colours as one, and to forget one.
import { ActionIcon, Button, Modal, Tooltip } from "@mantine/core";
import { IconTrash } from "@tabler/icons-react";

import type { Palette, Swatch } from "../api/types";
import { commit } from "../state/actions";
import { useStore } from "../state/store";
import { KeepAs } from "./KeepAs";

const NONE: Palette[] = [];

export const usePalettes = () => useStore((s) => s.project?.document.study?.palettes ?? NONE);

/** Colours side by side, each as wide as it is often; to be clicked, if there is somebody to take one. */
export function Swatches({ colors, take, of = "" }: { colors: Swatch[]; take?: (color: string) => void; of?: string }) {
  return (
    <span className="swatches">
      {colors.map(({ color, weight }, i) => {
        const style = { background: color, flexGrow: Math.max(0.08, weight) };
        if (!take) return <i key={i} style={style} title={color} />;
        return (
          <button
            key={i}
            style={style}
            title={`${color}${of && ` of ${of}`}`}
            aria-label={`Take ${color}${of && ` of ${of}`}`}
            onClick={() => take(color)}
          />
        );
      })}
    </span>
  );
}

/** Every palette as a strip that a colour is taken from. Nothing, if there is none. */
export function PaletteStrips({ take }: { take: (color: string) => void }) {
  const palettes = usePalettes();
  if (palettes.length === 0) return null;
  return (
    <div className="palette-strips">
      {palettes.map((p) => (
        <div key={p.name} data-palette={p.name}>
          <label className="light-row">
            <span className="snapshot-name">{p.name}</span>
          </label>
          <Swatches colors={p.colors} take={take} of={p.name} />
        </div>
      ))}
    </div>
  );
}

/** Keeps colours as a palette of the project. */
export function KeepPalette({ colors }: { colors: Swatch[] }) {
  const palettes = usePalettes();
  return (
    <KeepAs
      label="Name of the palette"
      kind="Palette"
      taken={palettes.map((p) => p.name)}
      button="Keep as a palette"
      keep={(name) => void commit({ edit: "keep_palette", palette: { name, colors } })}
    />
  );
}

interface Props {
  label: string;
  /** The colours that are there now, to be kept. */
  colors: Swatch[];
  take: (colors: Swatch[]) => void;
  close: () => void;
}

export function FromPalette({ label, colors, take, close }: Props) {
  const palettes = usePalettes();
  const lay = (p: Palette) => {
    close();
    take(p.colors);
  };
  return (
    <Modal opened onClose={close} title={`${label}: lay a palette`} size={460} yOffset={80}>
      {palettes.length === 0 && (
        <p className="soft" style={{ marginTop: 0 }}>
          No palette yet. Keep the colours that are there now, or find those of a picture: they go with the project.
        </p>
      )}
      {palettes.map((p) => (
        <div key={p.name} className="row palette-row" data-palette={p.name}>
          <span className="snapshot-name" title={p.name}>
            {p.name}
          </span>
          <Swatches colors={p.colors} />
          <Button variant="default" aria-label={`Lay ${p.name}`} onClick={() => lay(p)}>
            Lay
          </Button>
          <Tooltip label={`Forget ${p.name}; undo brings it back`}>
            <ActionIcon
              variant="default"
              size={26}
              aria-label={`Forget ${p.name}`}
              onClick={() => void commit({ edit: "remove_palette", name: p.name })}
            >
              <IconTrash size={14} />
            </ActionIcon>
          </Tooltip>
        </div>
      ))}
      <div className="palette-now">
        <label className="light-row">The colours that are there now</label>
        <Swatches colors={colors} />
        <KeepPalette colors={colors} />
      </div>
    </Modal>
  );
}
