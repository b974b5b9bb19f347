// The settings of what is selected: a layer's finish, channel by channel, or a step of its mask line.
import { Button, Select, Switch, TextInput, Tooltip } from "@mantine/core";
import { useState } from "react";
import { Link } from "wouter";

import type { Entry, Join, Layer, ParamSpec, Standing, Step } from "../../api/types";
import { Fold } from "../../controls/Fold";
import { NoteButton, NoteWords } from "../../controls/Note";
import { Setting } from "../../controls/Setting";
import { commit, select, writeOn } from "../../state/actions";
import { effective, entryOf, findLayer, stepValue } from "../../state/document";
import { useStore } from "../../state/store";
import { RecipeDials } from "../dials/RecipeDials";
import { DialSetting } from "../dials/Turnable";
import { PinBlock } from "./PinBlock";
import { duplicateStep } from "./steps";
import { Strokes } from "./Strokes";
import { Vary } from "./Vary";

export function Settings() {
  const project = useStore((s) => s.project);
  const id = useStore((s) => s.layer);
  const stepId = useStore((s) => s.step);
  if (!project) return null;
  const layer = id === null ? undefined : findLayer(project.document.layers, id);
  if (!layer)
    return (
      <p className="hint" style={{ paddingTop: 12 }}>
        Select a layer in the section to see its settings.
      </p>
    );
  const step = layer.mask.steps.find((s) => s.id === stepId);
  return step ? (
    <StepSettings key={step.id} layer={layer} step={step} project={project.id} />
  ) : (
    <LayerSettings key={layer.id} layer={layer} />
  );
}

function LayerSettings({ layer }: { layer: Layer }) {
  const catalog = useStore((s) => s.catalog);
  const opacity = catalog.find((e) => e.family === "layer")?.params[0];
  const what = { coat: "Finish", adjust: "Adjustment", group: "Group", use: "Recipe" }[layer.kind];
  return (
    <>
      <div className="panel-head">
        <span className="crumb">
          {layer.name} › <b>{what}</b>
        </span>
        <NoteButton of={layer.name} note={layer.note} keep={writeOn({ kind: "layer", layer: layer.id })} />
      </div>
      <NoteWords note={layer.note} />
      <div className="block">
        {opacity && <Setting spec={opacity} param={layer.opacity} target={{ layer: layer.id, key: "opacity" }} />}
        <Publish key={layer.publish} layer={layer} />
      </div>
      <OwnDials layer={layer.id} />
      {(layer.kind === "coat" || layer.kind === "adjust") && <Laid layer={layer} />}
      {layer.kind === "group" && (
        <p className="hint" style={{ paddingTop: 8 }}>
          Its mask and opacity go over all {layer.layers.length} layers in it.
        </p>
      )}
      {layer.kind === "use" && <RecipeDials use={layer} />}
    </>
  );
}

/** The dials that drive this layer, to be turned where it is worked on. */
function OwnDials({ layer }: { layer: string }) {
  const ids = useStore((s) => s.project?.dials_of[layer]);
  const dials = useStore((s) => s.project?.document.dials);
  const own = dials?.filter((d) => ids?.includes(d.id)) ?? [];
  if (own.length === 0) return null;
  return (
    <div className="block" data-testid="own-dials">
      <div className="channel-head">
        <h2>Dials</h2>
      </div>
      {own.map((d) => (
        <DialSetting key={d.id} dial={d} />
      ))}
    </div>
  );
}

/** The name that other masks may follow this layer's mask by. */
function Publish({ layer }: { layer: Layer }) {
  const [name, setName] = useState(layer.publish ?? "");
  const keep = () => {
    if (name.trim() !== (layer.publish ?? ""))
      void commit({ edit: "set_layer", layer: layer.id, publish: name.trim() });
  };
  return (
    <div className="row">
      <Tooltip
        label="Under this name the masks of other layers can follow this one. Empty: none can."
        position="left"
        multiline
        maw={260}
      >
        <span>Mask published as</span>
      </Tooltip>
      <TextInput
        className="value"
        w={128}
        aria-label="Mask published as"
        placeholder="not published"
        value={name}
        onChange={(e) => setName(e.currentTarget.value)}
        onBlur={keep}
        onKeyDown={(e) => e.key === "Enter" && keep()}
      />
    </div>
  );
}

type WithFinish = Extract<Layer, { kind: "coat" | "adjust" }>;

/** What a layer lays down or changes: six controls where these say all of it, and the channels. */
function Laid({ layer }: { layer: WithFinish }) {
  const variation = useStore((s) => s.project?.variations[layer.id]);
  if (!variation) return <Channels layer={layer} />;
  return (
    <>
      <Vary layer={layer.id} variation={variation} />
      <Fold title="More" note="each number by itself">
        <Channels layer={layer} />
      </Fold>
    </>
  );
}

/** The channels that every piece has and those that the coat lays; the others fold away. */
function Channels({ layer }: { layer: WithFinish }) {
  const catalog = useStore((s) => s.catalog);
  const all = catalog.filter((e) => e.family === (layer.kind === "coat" ? "channel" : "change"));
  const shown = all.filter((c) => c.always || layer.finish.channels[c.kind]?.on);
  const others = all.filter((c) => !shown.includes(c));
  return (
    <>
      {shown.map((c) => (
        <Channel key={c.kind} layer={layer} channel={c} />
      ))}
      {others.length > 0 && (
        <Fold title="More channels" note={`${others.length}`}>
          {others.map((c) => (
            <Channel key={c.kind} layer={layer} channel={c} />
          ))}
        </Fold>
      )}
    </>
  );
}

function Channel({ layer, channel }: { layer: WithFinish; channel: Entry }) {
  const use = layer.finish.channels[channel.kind];
  const on = use?.on ?? false;
  return (
    <div className="block" data-channel={channel.kind}>
      <div className="channel-head">
        <Tooltip label={channel.help} position="left" multiline maw={260}>
          <h2>{channel.label}</h2>
        </Tooltip>
        <Switch
          aria-label={`${layer.kind === "coat" ? "Lay" : "Change"} ${channel.label}`}
          checked={on}
          onChange={(e) =>
            void commit({ edit: "set_channel", layer: layer.id, channel: channel.kind, on: e.currentTarget.checked })
          }
        />
      </div>
      {on &&
        channel.params.map((spec) => (
          <Setting
            key={spec.key}
            spec={spec}
            param={use?.settings[spec.key]}
            target={{ layer: layer.id, channel: channel.kind, key: spec.key }}
          />
        ))}
    </div>
  );
}

function StepSettings({ layer, step, project }: { layer: Layer; step: Step; project: number }) {
  const catalog = useStore((s) => s.catalog);
  const entry = entryOf(catalog, step.kind);
  const joins = catalog.filter((e) => e.family === "join");
  const amount = catalog.find((e) => e.family === "step")?.params[0];
  const target = { layer: layer.id, step: step.id };
  const params = entry?.params ?? [];
  const place = layer.mask.steps.indexOf(step);
  return (
    <>
      <div className="panel-head">
        <span className="crumb">
          {layer.name} › <b>{entry?.label ?? step.kind}</b>
        </span>
        <NoteButton of={entry?.label ?? step.kind} note={step.note} keep={writeOn({ kind: "step", ...target })} />
      </div>
      <NoteWords note={step.note} />
      <div className="block">
        {entry?.family !== "shaper" && (
          <div className="row">
            <span>Joins by</span>
            <Select
              w={128}
              aria-label="Joins by"
              data={joins.map((j) => ({ value: j.kind, label: j.label.toLowerCase() }))}
              value={step.join}
              onChange={(v) => v !== null && void commit({ edit: "set_step", ...target, join: v as Join })}
            />
          </div>
        )}
        {amount && <Setting spec={amount} param={step.amount} target={{ ...target, key: "amount" }} />}
      </div>
      {step.kind === "pin" && <PinBlock layer={layer} step={step} />}
      <StepParams params={params} step={step} target={target} />
      {step.kind === "strokes" && <Strokes layer={layer} step={step} />}
      {entry !== undefined && entry.measured !== "" && (
        <p className="hint" style={{ paddingTop: 10, borderTop: "1px solid var(--hairline)" }}>
          {entry.help} How it is measured is set once for the whole piece, in{" "}
          <Link href={`/p/${project}/surface${location.search}`}>Surface</Link>.
        </p>
      )}
      <div className="block">
        <div className="row" style={{ justifyContent: "flex-start" }}>
          <Button variant="default" onClick={() => void commit({ edit: "set_step", ...target, on: !step.on })}>
            {step.on ? "Switch off" : "Switch on"}
          </Button>
          <Button variant="default" onClick={() => duplicateStep(layer, place + 1, step)}>
            Duplicate
          </Button>
          <Button
            variant="default"
            onClick={() => {
              void commit({ edit: "remove_step", ...target });
              select(layer.id);
            }}
          >
            Remove
          </Button>
        </div>
      </div>
    </>
  );
}

/** A step's settings that have an effect as it stands: those always seen, then the others under headings that fold away. */
function StepParams({
  params,
  step,
  target,
}: {
  params: ParamSpec[];
  step: Step;
  target: { layer: string; step: string };
}) {
  const standings = useStore((s) => s.project?.standings ?? NO_STANDINGS);
  const counting = effective(params, (spec) => stepValue(spec, step, target, standings));
  const groups = [...new Set(params.map((p) => p.group))];
  return groups.map((group) => {
    const specs = counting.filter((p) => p.group === group);
    const rows = specs.map((spec) => (
      <Setting key={spec.key} spec={spec} param={step.settings[spec.key]} target={{ ...target, key: spec.key }} />
    ));
    if (specs.length === 0) return null;
    if (group === "")
      return (
        <div key={group} className="block">
          {rows}
        </div>
      );
    const changed = specs.filter(
      (s) => step.settings[s.key] !== undefined && step.settings[s.key] !== s.default,
    ).length;
    return (
      <Fold key={group} title={group} note={changed > 0 ? `${changed} changed` : ""}>
        {rows}
      </Fold>
    );
  });
}

const NO_STANDINGS: Standing[] = [];
