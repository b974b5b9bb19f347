// Ladder: one or two dials stepped over a range, a picture for each step, and all of them as one sheet.
import { Button, Modal, NumberInput, Select } from "@mantine/core";
import { useEffect, useState } from "react";

import { api } from "../../api/client";
import type { Dial, Edit, LadderRequest, LadderSide, LadderView, ParamSpec, ProjectView, Rung } from "../../api/types";
import { Look } from "../../controls/Look";
import { commit, say } from "../../state/actions";
import { kindOf, specOf } from "../../state/document";
import { useStore } from "../../state/store";
import { asSeen } from "../../view/asSeen";

/** Pixels of a picture from top to bottom, and samples to each. */
const PICTURE = { height: 150, samples: 12 };
const SHEET = { height: 240, samples: 24 };
const NONE = "";
/** The ends of a side, and what of the dial they are unless something is said. */
const ENDS = [
  ["from", "From", "min"],
  ["to", "To", "max"],
] as const;

const stepped = (d: Dial) => d.formula === undefined && ["number", "seed", "choice", "switch"].includes(kindOf(d));
const ranged = (d: Dial | undefined) => d !== undefined && ["number", "seed"].includes(kindOf(d));

export function Ladder({ project }: { project: ProjectView }) {
  const [opened, setOpened] = useState(false);
  const dials = project.document.dials.filter(stepped);
  const first = dials[0];
  if (!first) return null;
  return (
    <>
      <Button variant="default" onClick={() => setOpened(true)}>
        Ladder
      </Button>
      <Modal opened={opened} onClose={() => setOpened(false)} title="Ladder" size={1140} yOffset={40}>
        {opened && <Inside project={project} dials={dials} first={first} />}
      </Modal>
    </>
  );
}

function Inside({ project, dials, first }: { project: ProjectView; dials: Dial[]; first: Dial }) {
  const { id, revision } = project;
  const [across, setAcross] = useState<LadderSide>({ dial: first.id });
  const [down, setDown] = useState<LadderSide | null>(null);
  const [ladder, setLadder] = useState<LadderView | null>(null);
  const [drawing, setDrawing] = useState(false);
  const [still] = useState(() => asSeen(PICTURE.height, PICTURE.samples));
  const request: LadderRequest = { across, ...(down ? { down } : {}) };
  const asked = JSON.stringify(request);
  useEffect(() => {
    let wanted = true;
    api.ladder(id, JSON.parse(asked) as LadderRequest).then((view) => wanted && setLadder(view), say);
    return () => {
      wanted = false;
    };
  }, [id, revision, asked]);
  const sheet = async () => {
    const large = asSeen(SHEET.height, SHEET.samples);
    if (!large) return;
    setDrawing(true);
    try {
      save(await api.ladderSheet(id, { ladder: request, still: large }), `${project.document.name} ladder.png`);
    } catch (error) {
      say(error);
    } finally {
      setDrawing(false);
    }
  };
  const turn = (side: LadderSide, rung: Rung): Edit => ({ edit: "turn_dial", dial: side.dial, value: rung.value });
  const rows: (Rung | null)[] = ladder && ladder.down.length > 0 ? ladder.down : [null];
  return (
    <div className="ladder">
      <div className="ladder-sides">
        <Side label="Across" dials={dials} side={across} other={down?.dial} set={(s) => s && setAcross(s)} />
        <Side label="Down" dials={dials} side={down} other={across.dial} set={setDown} />
        <Button loading={drawing} disabled={!ladder} onClick={() => void sheet()}>
          Save as one picture
        </Button>
      </div>
      {ladder && still && (
        <div
          className="ladder-steps"
          style={{
            gridTemplateColumns: `repeat(${ladder.across.length}, minmax(${ladder.across.length > 6 ? 84 : 120}px, 1fr))`,
          }}
        >
          {rows.flatMap((below, y) =>
            ladder.across.map((rung, x) => (
              <figure key={`${x} ${y}`} data-step={below ? `${rung.label}, ${below.label}` : rung.label}>
                <Look
                  edits={[turn(across, rung), ...(below && down ? [turn(down, below)] : [])]}
                  still={still}
                  alt={below ? `${rung.label}, ${below.label}` : rung.label}
                />
                <figcaption>
                  <span>
                    {rung.label}
                    {below && <small className="soft">{below.label}</small>}
                  </span>
                  <Button
                    variant="default"
                    size="compact-xs"
                    aria-label={`Take ${below ? `${rung.label}, ${below.label}` : rung.label}`}
                    onClick={() => void commit(turn(across, rung), ...(below && down ? [turn(down, below)] : []))}
                  >
                    Take
                  </Button>
                </figcaption>
              </figure>
            )),
          )}
        </div>
      )}
    </div>
  );
}

interface SideProps {
  label: string;
  dials: Dial[];
  side: LadderSide | null;
  /** The dial that is stepped the other way. */
  other: string | undefined;
  set: (side: LadderSide | null) => void;
}

function Side({ label, dials, side, other, set }: SideProps) {
  const dial = dials.find((d) => d.id === side?.dial);
  const free = dials.filter((d) => d.id !== other).map((d) => ({ value: d.id, label: d.label }));
  const down = label === "Down";
  const steps = useStore((s) => s.catalog.find((e) => e.family === "ladder")?.params[0]);
  return (
    <fieldset className="ladder-side">
      <legend>{label}</legend>
      <Select
        aria-label={`Dial ${label.toLowerCase()}`}
        data={down ? [{ value: NONE, label: "none" }, ...free] : free}
        value={side?.dial ?? NONE}
        allowDeselect={false}
        onChange={(id) => set(id ? { dial: id } : null)}
      />
      {side && dial && ranged(dial) && (
        <div className="row">
          {ENDS.map(([end, what, of]) => (
            <Field
              key={end}
              label={label}
              what={what}
              spec={specOf(dial)}
              value={side[end]}
              otherwise={dial[of]}
              set={(value) => set({ ...side, [end]: value })}
            />
          ))}
          {steps && (
            <Field
              label={label}
              what="Steps"
              spec={steps}
              value={side.steps}
              otherwise={Number(steps.default)}
              set={(n) => set({ ...side, steps: n })}
            />
          )}
        </div>
      )}
    </fieldset>
  );
}

interface FieldProps {
  /** Which side it is of. */
  label: string;
  what: string;
  spec: ParamSpec;
  value: number | undefined;
  /** What counts if nothing is said. */
  otherwise: number;
  set: (value: number) => void;
}

function Field({ label, what, spec, value, otherwise, set }: FieldProps) {
  return (
    <NumberInput
      label={what}
      aria-label={`${label} ${what.toLowerCase()}`}
      min={spec.min}
      max={spec.max}
      clampBehavior="strict"
      allowDecimal={spec.type !== "integer"}
      value={value ?? otherwise}
      onChange={(v) => typeof v === "number" && v >= spec.min && set(v)}
    />
  );
}

/** Saves bytes as a file of the artist's. */
function save(blob: Blob, name: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  // Once the browser has begun to read it.
  window.setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}
