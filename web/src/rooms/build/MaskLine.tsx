// The mask line of the selected layer: steps as tiles from left to right, each with the mask as it stands after it.
import { ActionIcon, Button, Menu, Tooltip } from "@mantine/core";
import { closestCenter, DndContext, type DragEndEvent } from "@dnd-kit/core";
import { horizontalListSortingStrategy, SortableContext, useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { IconEye, IconEyeOff } from "@tabler/icons-react";
import { useState } from "react";
import { useShallow } from "zustand/react/shallow";

import type { Entry, Join, Layer, Standing, Step } from "../../api/types";
import { takes } from "../../cabinet/drag";
import { NoteMark } from "../../controls/Note";
import { Pixels } from "../../controls/Pixels";
import { isNumber } from "../../controls/Control";
import { spoken } from "../../controls/spoken";
import { useDragSensors } from "../../controls/useDragSensors";
import { commit, select } from "../../state/actions";
import { byMask, effective, entryOf, findLayer, joinOf, percent, sentence, stepValue } from "../../state/document";
import { type State, useStore } from "../../state/store";
import { BrushStrip } from "./BrushStrip";
import { Finder } from "./Finder";
import { SaveLine } from "./SaveLine";
import { addSteps } from "./steps";

export function MaskLine() {
  const project = useStore((s) => s.project);
  const id = useStore((s) => s.layer);
  const catalog = useStore((s) => s.catalog);
  const layer = project && id !== null ? findLayer(project.document.layers, id) : undefined;
  const sensors = useDragSensors();
  if (!layer || !project)
    return (
      <div className="line-head">
        <b>Mask line</b>
        <span>Select a layer to see what its mask is made of.</span>
      </div>
    );
  const steps = layer.mask.steps;
  const dropped = ({ active, over }: DragEndEvent) => {
    const to = steps.findIndex((s) => s.id === over?.id);
    if (to >= 0 && over?.id !== active.id)
      void commit({ edit: "move_step", layer: layer.id, step: String(active.id), index: to });
  };
  return (
    <>
      <BrushStrip />
      <div className="line-head">
        <b>Mask line of {layer.name}</b>
        <span data-sentence>{sentence(steps, catalog)}</span>
        <LineTools layer={layer} />
      </div>
      <div className="line" {...takes("line", layer.id)}>
        <div className="line-steps">
          <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
            <SortableContext items={steps.map((s) => s.id)} strategy={horizontalListSortingStrategy}>
              {steps.map((step, i) => (
                <TileOf key={step.id} layer={layer} step={step} first={i === 0} standings={project.standings} />
              ))}
            </SortableContext>
          </DndContext>
        </div>
        <Tooltip label="Find a step (/)">
          <button
            className="add-step"
            style={steps.length === 0 ? { marginLeft: 0 } : undefined}
            aria-label="Find a step"
            onClick={() => useStore.setState({ finderOpen: true })}
          >
            +
          </button>
        </Tooltip>
        {steps.length === 0 && (
          <p className="soft" style={{ padding: "8px 0 0 14px", maxWidth: 220 }}>
            No steps: the layer lies everywhere. Press + to bring in a reading or a pattern.
          </p>
        )}
        <Histogram />
      </div>
      <Finder layer={layer} />
    </>
  );
}

/** Copying a whole line, here or to another layer, and keeping it for other projects. */
function LineTools({ layer }: { layer: Layer }) {
  const copied = useStore((s) => s.copied);
  const [saving, setSaving] = useState(false);
  const { steps } = layer.mask;
  return (
    <span className="line-tools">
      {saving && <SaveLine layer={layer} close={() => setSaving(false)} />}
      <Button variant="subtle" disabled={steps.length === 0} onClick={() => setSaving(true)}>
        Save as a starter…
      </Button>
      <Button variant="subtle" disabled={steps.length === 0} onClick={() => useStore.setState({ copied: steps })}>
        Copy line
      </Button>
      <Button
        variant="subtle"
        disabled={copied.length === 0}
        onClick={() => void addSteps(layer, steps.length, copied)}
      >
        Paste {copied.length > 0 ? `${copied.length} steps` : ""}
      </Button>
    </span>
  );
}

/** The one setting that says most of a step: its first number or part. */
function words(entry: Entry | undefined, layer: Layer, step: Step, standings: Standing[]): string {
  if (!step.on) return "off";
  if (!entry) return step.kind;
  const place = { layer: layer.id, step: step.id };
  const counting = effective(entry.params, (spec) => stepValue(spec, step, place, standings));
  const spec = counting.find((p) => isNumber(p) || p.type === "part") ?? counting[0];
  if (!spec) return entry.family;
  const varying = byMask(step.settings[spec.key]);
  if (varying) return `${spoken(spec, varying.low)} – ${spoken(spec, varying.high)}`;
  const value = spoken(spec, stepValue(spec, step, place, standings));
  return spec.type === "part" || spec.unit ? value : `${spec.label} ${value}`.toLowerCase();
}

function TileOf({
  layer,
  step,
  first,
  standings,
}: {
  layer: Layer;
  step: Step;
  first: boolean;
  standings: Standing[];
}) {
  const catalog = useStore((s) => s.catalog);
  const selected = useStore((s) => s.step === step.id);
  const pixels = useStore((s) => s.evaluation?.tiles.find((t) => t.step === step.id)?.pixels);
  const size = useStore((s) => s.evaluation?.tile_size);
  const { setNodeRef, attributes, listeners, transform, transition, isDragging } = useSortable({ id: step.id });
  const entry = entryOf(catalog, step.kind);
  const label = entry?.label ?? step.kind;
  const classes = ["tile", selected && "selected", !step.on && "off"].filter(Boolean).join(" ");
  const onOff = step.on ? `Switch ${label} off` : `Switch ${label} on`;
  return (
    <div
      ref={setNodeRef}
      style={{
        display: "flex",
        transform: CSS.Translate.toString(transform),
        transition: transition,
        zIndex: isDragging ? 2 : undefined,
      }}
    >
      {(!first || (entry?.family !== "shaper" && !joinOf(catalog, step.join)?.opens)) && (
        <Joint layer={layer} step={step} shaper={entry?.family === "shaper"} />
      )}
      <div className={classes} data-step={label} onClick={() => select(layer.id, selected ? null : step.id)}>
        <button
          className="tile-picture"
          {...attributes}
          {...listeners}
          aria-pressed={selected}
          aria-label={`${label}: settings`}
        >
          {pixels !== undefined && size && <Pixels address={pixels} size={size} label={`The mask after ${label}`} />}
        </button>
        <span className="tile-tools" onClick={(e) => e.stopPropagation()}>
          <Tooltip label={onOff}>
            <ActionIcon
              size={18}
              aria-label={onOff}
              onClick={() => void commit({ edit: "set_step", layer: layer.id, step: step.id, on: !step.on })}
            >
              {step.on ? <IconEye size={13} /> : <IconEyeOff size={13} />}
            </ActionIcon>
          </Tooltip>
        </span>
        <span className="tile-name">
          {label}
          <NoteMark note={step.note} />
        </span>
        <span className="tile-words">{words(entry, layer, step, standings)}</span>
      </div>
    </div>
  );
}

/** How a step meets the mask so far; a shaper just follows. */
function Joint({ layer, step, shaper }: { layer: Layer; step: Step; shaper: boolean }) {
  const catalog = useStore((s) => s.catalog);
  if (shaper)
    return (
      <div className="joint">
        <span>›</span>
      </div>
    );
  const joins = catalog.filter((e) => e.family === "join");
  const join = joinOf(catalog, step.join);
  const sign = join?.sign ?? step.join;
  return (
    <div className="joint">
      <Menu position="top" withinPortal>
        <Menu.Target>
          <Tooltip label={`Joins by: ${join?.label.toLowerCase() ?? step.join}`}>
            <button
              className={sign.length > 1 ? "word" : undefined}
              aria-label={`Joins by ${join?.label.toLowerCase() ?? step.join}; change`}
            >
              {sign}
            </button>
          </Tooltip>
        </Menu.Target>
        <Menu.Dropdown>
          {joins.map((j) => (
            <Menu.Item
              key={j.kind}
              leftSection={<span className="mono">{j.sign}</span>}
              onClick={() => void commit({ edit: "set_step", layer: layer.id, step: step.id, join: j.kind as Join })}
            >
              {j.label}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
    </div>
  );
}

const NO_BINS: number[] = [];
const WIDTH = 96;
const HEIGHT = 74;

/**
 * How much of the surface has which mask value, from 0 at the left to 1 at the right; tall bins are drawn by their root. While a step is selected whose
 * settings are values of the mask before it, it is of that mask, with them drawn in.
 */
function Histogram() {
  const bins = useStore((s) => s.evaluation?.histogram ?? NO_BINS);
  const mask = useStore((s) => s.evaluation?.coverage.find((c) => c.layer === s.layer)?.mask);
  const cuts = useStore(useShallow(selectedCuts));
  if (bins.length === 0 || mask === undefined) return null;
  const top = Math.max(...bins.map(Math.sqrt), 1e-6);
  const w = WIDTH / bins.length;
  return (
    <figure className="histogram">
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="img"
        aria-label={`Histogram of the mask; it covers ${percent(mask)} of the surface`}
      >
        {bins.map((share, i) => {
          const h = (Math.sqrt(share) / top) * (HEIGHT - 6);
          return <rect key={i} x={i * w} y={HEIGHT - h} width={w + 0.3} height={h} fill="#9a948b" />;
        })}
        {cuts.map((at, i) => (
          <line
            key={i}
            data-cut={at}
            x1={at * WIDTH}
            x2={at * WIDTH}
            y1={0}
            y2={HEIGHT}
            stroke="var(--verdigris)"
            strokeWidth={1.5}
          />
        ))}
      </svg>
      <figcaption style={{ marginTop: 4 }}>
        <b data-coverage>{percent(mask)}</b> <span className="soft">covered</span>
      </figcaption>
    </figure>
  );
}

function selectedCuts({ project, layer, step: stepId, catalog }: State): number[] {
  const step =
    project && layer !== null
      ? findLayer(project.document.layers, layer)?.mask.steps.find((s) => s.id === stepId)
      : undefined;
  const entry = step && entryOf(catalog, step.kind);
  if (!project || layer === null || !step || !entry) return [];
  const place = { layer, step: step.id };
  const marks = effective(entry.params, (spec) => stepValue(spec, step, place, project.standings)).filter(
    (p) => p.marks,
  );
  return marks.flatMap((p) => {
    const varying = byMask(step.settings[p.key]);
    return varying ? [varying.low, varying.high] : [Number(stepValue(p, step, place, project.standings))];
  });
}
