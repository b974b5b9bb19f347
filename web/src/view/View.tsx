// The view with the piece, the same one in every room, and the few controls that lie over it.
import { Button, Menu, Popover, SegmentedControl, Slider, Switch } from "@mantine/core";
import { useEffect, useRef, useState } from "react";
import { useShallow } from "zustand/react/shallow";

import type { LightsView, Surround } from "../api/types";
import { show, turnProbe } from "../state/actions";
import { evaluateSoon } from "../state/evaluate";
import { type Shown, useStore } from "../state/store";
import { Places } from "./Places";
import { Probe } from "./Probe";
import { Reference } from "./Reference";
import { Stage } from "./stage";
import { Stills } from "./Stills";
import { most, shrink } from "./textures";
import { Snapshots, Wipe } from "./Wipe";

export default function View() {
  const host = useRef<HTMLDivElement>(null);
  const [failure, setFailure] = useState<string | null>(null);
  useEffect(() => {
    const element = host.current;
    if (!element) return;
    let stage: Stage | null = null;
    try {
      stage = new Stage(element);
    } catch {
      queueMicrotask(() =>
        setFailure(
          "This browser can’t draw in three dimensions (no WebGL). Masks and files are computed all the same.",
        ),
      );
    }
    return () => stage?.dispose();
  }, []);
  return (
    <div className="view" ref={host} data-testid="view">
      {failure !== null && <p className="view-note">{failure}</p>}
      <Smaller />
      <Picking />
      <div className="over-view bottom-left">
        <LightMenu />
        <ShowMenu />
        <Places />
        <ProbeButton />
        <Snapshots />
        <Stills />
      </div>
      <Reference />
      <Wipe />
      <Probe />
      <div className="over-view top-right">
        <StepAlone />
        <MaskAlone />
      </div>
    </div>
  );
}

/** Says that a click on the piece takes a colour. */
function Picking() {
  const label = useStore((s) => s.picking?.label);
  const stop = () => useStore.setState({ picking: null });
  useEffect(() => {
    if (label === undefined) return;
    const escape = (e: KeyboardEvent) => {
      if (e.key === "Escape") stop();
    };
    window.addEventListener("keydown", escape);
    return () => window.removeEventListener("keydown", escape);
  }, [label]);
  if (label === undefined) return null;
  return (
    <p className="view-note small">
      Click the piece: its base color there becomes “{label}”. Escape leaves it as it is.
    </p>
  );
}

/** Says that the textures are too large for this machine and are drawn smaller. */
function Smaller() {
  const by = useStore(({ evaluation: e }) => (e ? shrink(e.size, e.sheets) : 1));
  if (by === 1) return null;
  return (
    <p className="view-note small">
      Drawn {by} times coarser than computed: this machine’s textures end at {most.texels} texels. Files are written in
      full.
    </p>
  );
}

function ProbeButton() {
  const probing = useStore((s) => s.probing);
  const room = useStore((s) => s.room);
  if (room !== "build") return null;
  return (
    <Button variant={probing ? "filled" : "default"} aria-pressed={probing} onClick={turnProbe}>
      Probe
    </Button>
  );
}

const NO_LIGHTS: LightsView["lights"] = [];
const NO_SURROUNDS: LightsView["surrounds"] = [];

function LightMenu() {
  const { light, turn, brightness, rim, exposure, surround } = useStore(
    useShallow(({ light, turn, brightness, rim, exposure, surround }) => ({
      light,
      turn,
      brightness,
      rim,
      exposure,
      surround,
    })),
  );
  const lights = useStore((s) => s.lights?.lights ?? NO_LIGHTS);
  const surrounds = useStore((s) => s.lights?.surrounds ?? NO_SURROUNDS);
  const ground = useStore((s) => s.ground);
  const moved = useStore((s) => s.moved);
  const ball = useStore((s) => s.ball);
  const set = useStore.setState;
  const label = lights.find((l) => l.key === light)?.label ?? light;
  return (
    <Popover position="top-start" width={308} withinPortal>
      <Popover.Target>
        <Button variant="default">Light: {label}</Button>
      </Popover.Target>
      <Popover.Dropdown className="light-box">
        <div className="lights">
          {lights.map((l) => (
            <Button
              key={l.key}
              fullWidth
              justify="start"
              px={8}
              variant={l.key === light ? "filled" : "subtle"}
              color={l.key === light ? "verdigris" : "dark"}
              onClick={() => set({ light: l.key })}
            >
              {l.label}
            </Button>
          ))}
        </div>
        <LightSlider
          label="Turn"
          of="Turn of the light"
          value={turn}
          min={-180}
          max={180}
          step={1}
          words={`${turn}°`}
          set={(value) => set({ turn: value })}
        />
        <LightSlider
          label="Brightness"
          of="Brightness of the light"
          value={brightness}
          min={0.2}
          max={3}
          step={0.05}
          words={`${Math.round(brightness * 100)} %`}
          set={(value) => set({ brightness: value })}
        />
        <LightSlider
          label="Rim light"
          of="Rim light"
          value={rim}
          min={0}
          max={1}
          step={0.05}
          words={`${Math.round(rim * 100)} %`}
          set={(value) => set({ rim: value })}
        />
        <LightSlider
          label="Exposure"
          of="Exposure"
          value={exposure}
          min={-4}
          max={4}
          step={0.1}
          words={`${exposure > 0 ? "+" : ""}${exposure.toFixed(1)} stops`}
          set={(value) => set({ exposure: value })}
        />
        <label className="light-row">Surround</label>
        <SegmentedControl
          fullWidth
          size="xs"
          aria-label="Surround"
          data={surrounds.map((s) => ({ value: s.key, label: s.label }))}
          value={surround}
          onChange={(value) => set({ surround: value as Surround })}
        />
        <Switch
          size="xs"
          mt={4}
          label="Stands on the ground"
          checked={ground}
          onChange={(e) => set({ ground: e.currentTarget.checked })}
        />
        <Switch
          id="moved"
          size="xs"
          mt={2}
          label="Relief moves the surface"
          checked={moved}
          onChange={(e) => {
            set({ moved: e.currentTarget.checked });
            evaluateSoon();
          }}
        />
        <Switch
          id="ball"
          size="xs"
          mt={2}
          label="A ball to judge the light by"
          checked={ball}
          onChange={(e) => set({ ball: e.currentTarget.checked })}
        />
        <Button
          variant="subtle"
          onClick={() => set({ turn: 0, brightness: 1, rim: 0, exposure: 0, surround: "grey", ground: false })}
        >
          As it was
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}

function LightSlider({
  label,
  of,
  words,
  set,
  ...range
}: {
  label: string;
  of: string;
  words: string;
  value: number;
  min: number;
  max: number;
  step: number;
  set: (value: number) => void;
}) {
  return (
    <>
      <label className="light-row">
        {label} <span className="mono">{words}</span>
      </label>
      <Slider size={4} thumbLabel={of} {...range} onChange={set} label={null} />
    </>
  );
}

/** What the view's ordinary textures hold, and so costs nothing to look at. */
const AT_HAND: Shown[] = ["base_color", "roughness", "metallic"];
const OTHERS: [Shown, string][] = [
  ["lit", "lit"],
  ["normal", "normal"],
  ["parts", "parts"],
  ["shells", "shells"],
  ["mask", "mask alone"],
  ["step", "step alone"],
];

function ShowMenu() {
  const shown = useStore((s) => s.shown);
  const catalog = useStore((s) => s.catalog);
  const layer = useStore((s) => s.layer);
  const step = useStore((s) => s.step);
  const laid = useStore((s) => s.evaluation?.channels ?? NO_CHANNELS);
  const channels = catalog
    .filter((e) => e.family === "channel" && laid.includes(e.kind))
    .map((e): [Shown, string] => [AT_HAND.find((k) => k === e.kind) ?? `channel:${e.kind}`, e.label.toLowerCase()]);
  const readings = catalog
    .filter((e) => e.family === "reading")
    .map((e): [Shown, string] => [`reading:${e.kind}`, e.label.toLowerCase()]);
  const label =
    [...OTHERS, ...channels, ...readings].find(([key]) => key === shown)?.[1] ??
    shown.replace(/^.*:/, "").replaceAll("_", " ");
  const item = ([key, text]: [Shown, string]) => (
    <Menu.Item key={key} onClick={() => show(key)}>
      {text}
    </Menu.Item>
  );
  return (
    <Menu position="top-start" withinPortal menuItemTabIndex={0}>
      <Menu.Target>
        <Button variant="default">Shows: {label}</Button>
      </Menu.Target>
      <Menu.Dropdown className="show-box">
        {item(["lit", "lit"])}
        <Menu.Label>Channels</Menu.Label>
        {channels.map(item)}
        {item(["normal", "normal"])}
        <Menu.Label>Masks and the piece</Menu.Label>
        <Menu.Item disabled={layer === null} onClick={() => show("mask")}>
          mask alone
        </Menu.Item>
        <Menu.Item disabled={step === null} onClick={() => show("step")}>
          step alone
        </Menu.Item>
        {item(["parts", "parts"])}
        {item(["shells", "shells"])}
        <Menu.Label>Readings</Menu.Label>
        {readings.map(item)}
      </Menu.Dropdown>
    </Menu>
  );
}

const NO_CHANNELS: string[] = [];

/** What the selected step brings in or makes, by itself. */
function StepAlone() {
  const on = useStore((s) => s.shown === "step");
  const step = useStore((s) => s.step);
  const room = useStore((s) => s.room);
  if (step === null || room !== "build") return null;
  return (
    <Button variant={on ? "filled" : "default"} aria-pressed={on} onClick={() => show(on ? "lit" : "step")}>
      Step alone
    </Button>
  );
}

function MaskAlone() {
  const shown = useStore((s) => s.shown);
  const layer = useStore((s) => s.layer);
  if (layer === null) return null;
  const on = shown === "mask";
  return (
    <Button variant={on ? "filled" : "default"} aria-pressed={on} onClick={() => show(on ? "lit" : "mask")}>
      Mask alone
    </Button>
  );
}
