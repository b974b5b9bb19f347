// The Dials room: exposed parameters, large and grouped, of the piece itself and of every recipe in use.
import { ActionIcon, Button, NumberInput, Popover, TextInput, Tooltip } from "@mantine/core";
import { IconPencil, IconRotate2, IconTrash } from "@tabler/icons-react";
import { useState } from "react";

import type { Dial, Layer, ParamSpec, ProjectView, Value, Variant } from "../../api/types";
import { ColorField } from "../../controls/ColorField";
import { KeepAs } from "../../controls/KeepAs";
import { spoken } from "../../controls/spoken";
import { NumberField } from "../../controls/NumberField";
import { Track } from "../../controls/Track";
import { useTurning } from "../../controls/useTurning";
import { commit } from "../../state/actions";
import { allLayers, plainSpec } from "../../state/document";
import { useStore } from "../../state/store";

type Use = Extract<Layer, { kind: "use" }>;

export function Dials() {
  const project = useStore((s) => s.project);
  if (!project) return null;
  const uses = allLayers(project.document.layers).filter(
    (l): l is Use => l.kind === "use" && l.recipe.dials.length > 0,
  );
  const own = project.document.dials;
  return (
    <>
      <div className="panel-head">
        <span>Dials</span>
        <span>drag one and watch the piece</span>
      </div>
      {groups(own).map(([group, dials]) => (
        <section key={group} className="block">
          <h2 className="soft">{group || project.document.name}</h2>
          {dials.map((d) => (
            <OwnDial key={d.id} dial={d} project={project} />
          ))}
        </section>
      ))}
      {own.length > 0 && <Variants variants={project.document.variants ?? []} />}
      {uses.map((use) => (
        <RecipeDials key={use.id} use={use} />
      ))}
      {own.length === 0 && uses.length === 0 && (
        <p className="hint">No dials yet. In Build, press the ƒ beside any setting to make one.</p>
      )}
    </>
  );
}

/** Named sets of what the dials stand at. */
function Variants({ variants }: { variants: Variant[] }) {
  return (
    <section className="block" data-testid="variants">
      <h2 className="soft">Variants</h2>
      {variants.length === 0 && (
        <p className="soft" style={{ margin: 0 }}>
          Keep what the dials stand at under a name, to come back to it and to wipe against it.
        </p>
      )}
      {variants.map((v) => (
        <div key={v.name} className="row" data-kept={v.name}>
          <span className="snapshot-name" title={v.name}>
            {v.name}
          </span>
          <Button
            variant="default"
            aria-label={`Take ${v.name}`}
            onClick={() => void commit({ edit: "take_variant", name: v.name })}
          >
            Take
          </Button>
          <Tooltip label={`Forget ${v.name}; undo brings it back`}>
            <ActionIcon
              variant="default"
              size={26}
              aria-label={`Forget ${v.name}`}
              onClick={() => void commit({ edit: "remove_variant", name: v.name })}
            >
              <IconTrash size={14} />
            </ActionIcon>
          </Tooltip>
        </div>
      ))}
      <KeepAs
        label="Name of the variant"
        kind="Variant"
        taken={variants.map((v) => v.name)}
        button="Keep them"
        keep={(name) => void commit({ edit: "keep_variant", name })}
      />
    </section>
  );
}

/** The dials of a recipe in use, with values of its own. */
export function RecipeDials({ use }: { use: Use }) {
  return (
    <section className="block" data-use={use.name}>
      <h2 className="soft">
        {use.name}: from the recipe {use.recipe.name}
      </h2>
      {use.recipe.dials.map((d) => (
        <Turnable key={d.id} dial={d} value={use.values[d.id] ?? d.default} layer={use.id} />
      ))}
      {use.recipe.dials.length === 0 && <p className="soft">This recipe exposes no dials.</p>}
    </section>
  );
}

function groups(dials: Dial[]): [string, Dial[]][] {
  const out = new Map<string, Dial[]>();
  for (const d of dials) out.set(d.group, [...(out.get(d.group) ?? []), d]);
  return [...out];
}

function OwnDial({ dial, project }: { dial: Dial; project: ProjectView }) {
  const drives = project.driven[dial.id] ?? [];
  return (
    <Turnable
      dial={dial}
      value={dial.value}
      tools={<Tools dial={dial} />}
      note={drives.length === 0 ? "Drives nothing yet." : `Drives ${drives.join(", ")}.`}
    />
  );
}

/** A dial among the settings of a layer. */
export function DialSetting({ dial }: { dial: Dial }) {
  const { now, keep, attempt } = useTurning(dial.value, (v) => ({ edit: "turn_dial", dial: dial.id, value: v }));
  const spec = specOf(dial);
  return (
    <div className="setting" data-dial={dial.label}>
      <span className="setting-label">{dial.label}</span>
      {typeof now === "number" ? (
        <NumberField spec={spec} value={now} disabled={false} keep={keep} />
      ) : (
        <ColorField label={dial.label} value={String(now)} disabled={false} keep={keep} attempt={attempt} />
      )}
      <Tooltip label={`Back to ${spoken(spec, dial.default)}`}>
        <ActionIcon
          aria-label={`Reset ${dial.label}`}
          variant="transparent"
          disabled={dial.value === dial.default}
          onClick={() => keep(dial.default)}
        >
          <IconRotate2 size={13} />
        </ActionIcon>
      </Tooltip>
      <span />
      {typeof now === "number" && (
        <Track className="setting-slider" spec={spec} value={now} size={2} keep={keep} attempt={attempt} />
      )}
    </div>
  );
}

function Turnable({
  dial,
  value,
  layer,
  tools,
  note,
}: {
  dial: Dial;
  value: Value;
  layer?: string;
  tools?: React.ReactNode;
  note?: string;
}) {
  const { now, keep, attempt } = useTurning(value, (v) => ({
    edit: "turn_dial",
    dial: dial.id,
    value: v,
    ...(layer !== undefined ? { layer } : {}),
  }));
  const spec = specOf(dial);
  return (
    <div className="dial" data-dial={dial.label}>
      <div className="dial-top">
        <h3>{dial.label}</h3>
        {typeof now === "number" ? (
          <NumberField spec={spec} value={now} disabled={false} keep={keep} />
        ) : (
          <ColorField label={dial.label} value={String(now)} disabled={false} keep={keep} attempt={attempt} />
        )}
        <Tooltip label={`Back to ${spoken(spec, dial.default)}`}>
          <ActionIcon
            aria-label={`Reset ${dial.label}`}
            disabled={value === dial.default}
            onClick={() => keep(dial.default)}
          >
            <IconRotate2 size={15} />
          </ActionIcon>
        </Tooltip>
        {tools}
      </div>
      {typeof now === "number" && (
        <>
          <Track spec={spec} value={now} size={4} keep={keep} attempt={attempt} />
          <span className="dial-ends">
            <span>{spoken(spec, spec.min)}</span>
            <span>{spoken(spec, spec.max)}</span>
          </span>
        </>
      )}
      {note !== undefined && <span className="dial-drives">{note}</span>}
    </div>
  );
}

/** A dial described as a setting, so that the same controls serve. */
function specOf(dial: Dial): ParamSpec {
  const type = typeof dial.value === "number" ? "number" : "color";
  return plainSpec({
    key: dial.id,
    label: dial.label,
    unit: dial.unit,
    min: dial.min,
    max: dial.max,
    default: dial.default,
    type,
  });
}

function Tools({ dial }: { dial: Dial }) {
  const [opened, setOpened] = useState(false);
  return (
    <>
      <Popover opened={opened} onChange={setOpened} position="bottom-end" width={264} withinPortal trapFocus>
        <Popover.Target>
          <Tooltip label="Change the dial itself">
            <ActionIcon aria-label={`Change the dial ${dial.label}`} onClick={() => setOpened(!opened)}>
              <IconPencil size={15} />
            </ActionIcon>
          </Tooltip>
        </Popover.Target>
        <Popover.Dropdown aria-label={`Change the dial ${dial.label}`}>
          {opened && <Change dial={dial} close={() => setOpened(false)} />}
        </Popover.Dropdown>
      </Popover>
      <Tooltip label="Remove the dial; what it drives keeps its value">
        <ActionIcon
          aria-label={`Remove the dial ${dial.label}`}
          onClick={() => void commit({ edit: "remove_dial", dial: dial.id })}
        >
          <IconTrash size={15} />
        </ActionIcon>
      </Tooltip>
    </>
  );
}

function Change({ dial, close }: { dial: Dial; close: () => void }) {
  const [draft, setDraft] = useState(dial);
  const text = (label: string, key: "label" | "group" | "unit") => (
    <TextInput
      label={label}
      value={draft[key]}
      onChange={(e) => setDraft({ ...draft, [key]: e.currentTarget.value })}
    />
  );
  const number = (label: string, key: "min" | "max" | "default") => (
    <NumberInput
      label={label}
      value={Number(draft[key])}
      onChange={(v) => typeof v === "number" && setDraft({ ...draft, [key]: v })}
    />
  );
  const keep = () => {
    close();
    const inside = (v: Value) => (typeof v === "number" ? Math.min(draft.max, Math.max(draft.min, v)) : v);
    void commit({
      edit: "set_dial",
      dial: { ...draft, label: draft.label.trim(), group: draft.group.trim(), value: inside(draft.value) },
    });
  };
  return (
    <form
      className="drive-box"
      onSubmit={(e) => {
        e.preventDefault();
        keep();
      }}
    >
      {text("Name", "label")}
      {text("Group", "group")}
      {typeof dial.value === "number" && (
        <>
          <div className="pair">
            {number("From", "min")}
            {number("To", "max")}
          </div>
          <div className="pair">
            {number("Default", "default")}
            {text("Unit", "unit")}
          </div>
        </>
      )}
      <Button type="submit" disabled={draft.label.trim() === ""}>
        Keep
      </Button>
    </form>
  );
}
