// Variants as a table: what each dial stands at in each of them, its own in bold, a picture at the head.
import { ActionIcon, Button, Popover, Select, Tooltip } from "@mantine/core";
import { IconTrash } from "@tabler/icons-react";
import { useState } from "react";

import type { Dial, ProjectView, StillSettings, Value, Variant } from "../../api/types";
import { Control } from "../../controls/Control";
import { KeepAs } from "../../controls/KeepAs";
import { Look } from "../../controls/Look";
import { Said } from "../../controls/Said";
import { commit } from "../../state/actions";
import { specOf } from "../../state/document";
import { useStore } from "../../state/store";
import { asSeen } from "../../view/asSeen";
import { SideBySide } from "./SideBySide";
import { VariantLayers } from "./VariantLayers";

/** Pixels of a picture from top to bottom, and samples to each. */
const PICTURE = { height: 96, samples: 12 };
/** The least width of a column in pixels; the columns are alike, so that what stands below the names lines up. */
const COLUMN = 76;
const ALONE = "";

export function Variants({ project }: { project: ProjectView }) {
  const variants = project.document.variants ?? [];
  const [on, setOn] = useState(ALONE);
  const [layered, setLayered] = useState(false);
  // From where one looked when the room was opened: pictures don't follow every turn of the view.
  const seen = useStore((s) => s.camera !== null && s.evaluation !== null);
  const still = useStillOnce(seen);
  const names = variants.map((v) => v.name);
  const turned = project.document.dials.filter((d) => d.formula === undefined);
  const below = names.includes(on) ? on : ALONE;
  return (
    <section className="block" data-testid="variants">
      <h2 className="soft">Variants</h2>
      {variants.length === 0 && (
        <p className="soft" style={{ margin: 0 }}>
          Keep what the dials stand at and which layers are shown under a name, to come back to it and to wipe against
          it.
        </p>
      )}
      {variants.length > 0 && (
        <div className="variants">
          <table style={{ minWidth: COLUMN * (1 + variants.length) }}>
            <thead>
              <tr>
                <td />
                {variants.map((v) => (
                  <th key={v.name} scope="col" data-kept={v.name}>
                    <Head variant={v} still={still} />
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {turned.map((d) => (
                <tr key={d.id}>
                  <th scope="row" title={d.label}>
                    {d.label}
                  </th>
                  {variants.map((v) => (
                    <td key={v.name}>
                      <Cell dial={d} variant={v} value={project.variants[v.name]?.values[d.id]} />
                    </td>
                  ))}
                </tr>
              ))}
              {layered && <VariantLayers project={project} variants={variants} />}
            </tbody>
          </table>
        </div>
      )}
      {variants.length > 0 && (
        <div className="row" style={{ justifyContent: "flex-start", marginBottom: 8 }}>
          <Button variant="default" aria-pressed={layered} onClick={() => setLayered(!layered)}>
            {layered ? "Hide the layers" : "Layers, too"}
          </Button>
          <SideBySide names={names} />
        </div>
      )}
      {variants.length > 0 && (
        <Select
          label="A new one holds"
          data={[
            { value: ALONE, label: "what all dials stand at" },
            ...names.map((name) => ({ value: name, label: `what differs from ${name}` })),
          ]}
          value={below}
          onChange={(v) => setOn(v ?? ALONE)}
        />
      )}
      <KeepAs
        label="Name of the variant"
        kind="Variant"
        taken={names}
        button="Keep them"
        keep={(name) => void commit({ edit: "keep_variant", name, ...(below === ALONE ? {} : { on: below }) })}
      />
    </section>
  );
}

/** The first place from where the piece was seen, once it is. */
function useStillOnce(seen: boolean) {
  const [still, setStill] = useState<StillSettings | null>(null);
  if (seen && still === null) setStill(asSeen(PICTURE.height, PICTURE.samples));
  return still;
}

function Head({ variant, still }: { variant: Variant; still: StillSettings | null }) {
  const { name, on } = variant;
  return (
    <>
      <Look edits={[{ edit: "take_variant", name }]} still={still} alt={`The piece as ${name}`} />
      <span className="variant-name" title={on === undefined ? name : `${name}, built on ${on}`}>
        {name}
      </span>
      <span className="soft variant-name">{on === undefined ? "by itself" : `on ${on}`}</span>
      <span className="row">
        <Button
          variant="default"
          aria-label={`Take ${name}`}
          onClick={() => void commit({ edit: "take_variant", name })}
        >
          Take
        </Button>
        <Tooltip label={`Forget ${name}; undo brings it back`}>
          <ActionIcon
            variant="default"
            size={26}
            aria-label={`Forget ${name}`}
            onClick={() => void commit({ edit: "remove_variant", name })}
          >
            <IconTrash size={14} />
          </ActionIcon>
        </Tooltip>
      </span>
    </>
  );
}

/** What a dial stands at in a variant: its own in bold, and changed in place. */
function Cell({ dial, variant, value }: { dial: Dial; variant: Variant; value: Value | undefined }) {
  const [opened, setOpened] = useState(false);
  const spec = specOf(dial);
  const own = dial.id in variant.values;
  const keep = (v: Value | null) => void commit({ edit: "set_variant", name: variant.name, dial: dial.id, value: v });
  const title = `${dial.label} in ${variant.name}`;
  return (
    <Popover opened={opened} onChange={setOpened} position="left" width={220} withinPortal trapFocus>
      <Popover.Target>
        <button className="variant-cell" aria-label={title} data-own={own} onClick={() => setOpened(!opened)}>
          {value === undefined ? "–" : <Said spec={spec} value={value} />}
        </button>
      </Popover.Target>
      <Popover.Dropdown aria-label={title}>
        {opened && (
          <div className="drive-box">
            <div className="row">
              <span>{title}</span>
              <Control
                spec={{ ...spec, label: title }}
                value={value ?? dial.default}
                disabled={false}
                keep={keep}
                attempt={() => undefined}
              />
            </div>
            {own && (
              <Button
                variant="default"
                onClick={() => {
                  setOpened(false);
                  keep(null);
                }}
              >
                {variant.on === undefined ? "Leave it alone" : `As in ${variant.on}`}
              </Button>
            )}
          </div>
        )}
      </Popover.Dropdown>
    </Popover>
  );
}
