// A colour: typed as hex, picked by hue, saturation and value or by lightness, chroma and hue of OKLCH, or taken from the piece or from the screen.
import { Button, ColorPicker, Popover, Slider, TextInput } from "@mantine/core";
import { useEyeDropper } from "@mantine/hooks";
import { clampChroma, converter, formatHex, type Oklch } from "culori";
import { type ComponentProps, type ReactNode, useState } from "react";

import { useStore } from "../state/store";
import { FromPicture } from "./FromPicture";
import { PaletteStrips } from "./Palettes";
import { useDraft } from "./useDraft";

const toOklch = converter("oklch");
const HEX = /^#[0-9a-f]{6}$/i;

interface Props {
  label: string;
  value: string;
  disabled: boolean;
  keep: (v: string) => void;
  attempt: (v: string) => void;
}

export function ColorField({ label, value, disabled, keep, attempt }: Props) {
  const [color, setColor] = useDraft(value, (v) => v);
  const take = (text: string) => {
    const hex = (text.startsWith("#") ? text : `#${text}`).toLowerCase();
    if (!HEX.test(hex)) return setColor(value);
    setColor(hex);
    if (hex !== value) keep(hex);
  };
  const turn = (hex: string) => {
    setColor(hex);
    attempt(hex);
  };
  return (
    <ColorBox label={label} color={HEX.test(color) ? color : value} turn={turn} take={take}>
      {(patch) => (
        <TextInput
          className="value"
          w={106}
          aria-label={label}
          value={color}
          disabled={disabled}
          leftSection={patch({
            className: "swatch",
            "aria-label": `Pick ${label.toLowerCase()}`,
            disabled,
          })}
          onChange={(e) => setColor(e.currentTarget.value)}
          onKeyDown={(e) => e.key === "Enter" && take(color)}
          onBlur={() => take(color)}
        />
      )}
    </ColorBox>
  );
}

/** The same as a patch of the colour alone. */
export function ColorPatch({ label, value, keep }: Pick<Props, "label" | "value" | "keep">) {
  const [color, setColor] = useDraft(value, (v) => v);
  const take = (hex: string) => {
    setColor(hex);
    if (hex !== value) keep(hex.toLowerCase());
  };
  return (
    <ColorBox label={label} color={color} turn={setColor} take={take}>
      {(patch) => patch({ className: "color-patch", "aria-label": label, title: color })}
    </ColorBox>
  );
}

interface BoxProps {
  label: string;
  color: string;
  turn: (hex: string) => void;
  take: (hex: string) => void;
  /** What holds the patch that opens the box, and is given it. */
  children: (patch: (props: ComponentProps<"button">) => ReactNode) => ReactNode;
}

/** A patch that opens the box in which colours are picked. */
function ColorBox({ label, color, turn, take, children }: BoxProps) {
  const [open, setOpen] = useState(false);
  const [onPicture, setOnPicture] = useState(false);
  return (
    <Popover opened={open} onChange={setOpen} position="left-start" width={264} withinPortal trapFocus={false}>
      {children((props) => (
        <Popover.Target>
          <button {...props} style={{ background: color }} onClick={() => setOpen(!open)} />
        </Popover.Target>
      ))}
      <Popover.Dropdown className="color-box">
        <Picker
          color={color}
          label={label}
          turn={turn}
          take={take}
          close={() => setOpen(false)}
          onPicture={() => {
            setOpen(false);
            setOnPicture(true);
          }}
        />
      </Popover.Dropdown>
      {onPicture && (
        <FromPicture
          label={label}
          count={1}
          take={([picked]) => picked && take(picked.color)}
          close={() => setOnPicture(false)}
        />
      )}
    </Popover>
  );
}

interface PickerProps {
  color: string;
  label: string;
  turn: (hex: string) => void;
  take: (hex: string) => void;
  close: () => void;
  onPicture: () => void;
}

function Picker({ color, label, turn, take, close, onPicture }: PickerProps) {
  const screen = useEyeDropper();
  const fromPiece = () => {
    close();
    useStore.setState({ picking: { label, take } });
  };
  return (
    <>
      <ColorPicker
        fullWidth
        size="sm"
        format="hex"
        value={color}
        onChange={turn}
        onChangeEnd={take}
        saturationLabel={`${label}: saturation and value`}
        hueLabel={`${label}: hue`}
      />
      <Lch color={color} label={label} turn={turn} take={take} />
      <PaletteStrips take={take} />
      <div className="color-from">
        <span className="soft">From</span>
        <Button variant="default" aria-label="From the piece" onClick={fromPiece}>
          piece
        </Button>
        <Button variant="default" aria-label="From a picture" onClick={onPicture}>
          picture
        </Button>
        {screen.supported && (
          <Button
            variant="default"
            aria-label="From the screen"
            onClick={() =>
              void screen.open().then(
                (picked) => picked && take(picked.sRGBHex),
                () => undefined,
              )
            }
          >
            screen
          </Button>
        )}
      </div>
    </>
  );
}

const AXES = [
  { axis: "l", label: "Lightness", max: 1, step: 0.005, digits: 2 },
  { axis: "c", label: "Chroma", max: 0.33, step: 0.002, digits: 3 },
  { axis: "h", label: "Hue", max: 360, step: 1, digits: 0 },
] as const;

/** OKLCH. While a slider is turned it keeps what is asked for, even where sRGB ends: the colour is the nearest of less chroma. */
function Lch({ color, label, turn, take }: Pick<PickerProps, "color" | "label" | "turn" | "take">) {
  const [asked, setAsked] = useState<{ hex: string; lch: Oklch } | null>(null);
  const given = toOklch(color) ?? { mode: "oklch", l: 0, c: 0 };
  const lch = asked?.hex === color ? asked.lch : given;
  const hexOf = (axis: "l" | "c" | "h", value: number) => {
    const next = { ...lch, h: lch.h ?? 0, [axis]: value };
    const hex = formatHex(clampChroma(next, "oklch"));
    setAsked({ hex, lch: next });
    return hex;
  };
  return AXES.map(({ axis, label: name, max, step, digits }) => (
    <div key={axis}>
      <label className="light-row">
        {name} <span className="mono">{(lch[axis] ?? 0).toFixed(digits)}</span>
      </label>
      <Slider
        size={4}
        thumbLabel={`${label}: ${name.toLowerCase()}`}
        min={0}
        max={max}
        step={step}
        value={lch[axis] ?? 0}
        label={null}
        onChange={(v) => turn(hexOf(axis, v))}
        onChangeEnd={(v) => take(hexOf(axis, v))}
      />
    </div>
  ));
}
