// The sheet that lays a recipe: what it can't find out by itself is asked here, beside a picture of it on this piece.
import { Button, Modal, Select } from "@mantine/core";
import { useEffect, useState } from "react";

import { api } from "../api/client";
import type { CabinetCard, Dial, DrawnFit, FitView, Laying, PatternSize, SlotFit } from "../api/types";
import { Look } from "../controls/Look";
import { PalettePick } from "../controls/PalettePick";
import { placeOver } from "../rooms/build/lay";
import { layRecipe, say } from "../state/actions";
import { kindOf } from "../state/document";
import { useStore } from "../state/store";
import { asSeen } from "../view/asSeen";

/** Pixels of the picture from top to bottom, and samples to each. */
const PICTURE = { height: 320, samples: 16 };
const AS_MADE = "";
/** Patterns that are told of before the rest is counted. */
const TOLD = 8;

interface Place {
  inside?: string;
  index: number;
}

/** Whether the piece has the very thing that a slot was made with. */
const isThere = (slot: SlotFit) => slot.takes === slot.wanted && slot.wanted !== "";

/** Lays a recipe at once where there is nothing to ask, and asks otherwise. */
export async function layOrAsk(card: CabinetCard, over: string | null, ask: () => void): Promise<void> {
  const project = useStore.getState().project?.id;
  if (project === undefined) return;
  const laying: Laying = { recipe: card.id };
  const slots = card.needs.parts.length + card.needs.pictures.length;
  if (slots > 0 || card.drawn) {
    const { fit } = await api.fit(project, laying);
    if (!fit.slots.every(isThere) || fit.drawn?.shows === false) return ask();
  }
  const laid = await layRecipe(laying, placeOver(over));
  // What was dragged out of the cabinet may be followed by more.
  if (laid && over === null) useStore.setState({ cabinetOpen: false });
}

export function LaySheet({ card, place, close }: { card: CabinetCard; place: Place; close: () => void }) {
  const project = useStore((s) => s.project?.id);
  const [preset, setPreset] = useState(AS_MADE);
  const [values, setValues] = useState<Record<string, string>>({});
  const [view, setView] = useState<FitView | null>(null);
  const [still] = useState(() => asSeen(PICTURE.height, PICTURE.samples));
  useEffect(() => {
    if (project === undefined) return;
    let wanted = true;
    api.fit(project, { recipe: card.id, ...(preset === AS_MADE ? {} : { preset }), values }).then((v) => {
      if (wanted) setView(v);
    }, say);
    return () => {
      wanted = false;
    };
  }, [project, card.id, preset, values]);
  const lay = async () => {
    const laying: Laying = { recipe: card.id, ...(preset === AS_MADE ? {} : { preset }), values };
    if (await layRecipe(laying, place)) {
      close();
      useStore.setState({ cabinetOpen: false });
    }
  };
  const slots = view?.fit.slots ?? [];
  const filled = (slot: SlotFit) => values[slot.dial] ?? slot.takes ?? null;
  return (
    <Modal opened onClose={close} title={`Lay ${card.name} on this piece`} size={900} yOffset={50}>
      <div className="lay-sheet">
        <div>
          {view && still ? (
            <Look
              edits={[{ edit: "add_layer", inside: place.inside ?? null, index: place.index, layer: view.layer }]}
              still={still}
              alt={`The piece with ${card.name}`}
            />
          ) : (
            <div className="look waiting" style={{ aspectRatio: "1" }} />
          )}
          <small className="soft">On this piece, from where you look.</small>
        </div>
        <div className="lay-asks">
          {card.presets.length > 0 && (
            <Select
              label="Begin with"
              data={[{ value: AS_MADE, label: "what its maker left it at" }, ...card.presets]}
              value={preset}
              allowDeselect={false}
              onChange={(v) => setPreset(v ?? AS_MADE)}
            />
          )}
          {slots.map((slot) => (
            <Select
              key={slot.dial}
              label={`${slot.kind === "part" ? "Part" : "Picture"} for ${slot.label}`}
              description={explained(slot)}
              placeholder={slot.options.length > 0 ? "Pick one" : "This piece has none"}
              disabled={slot.options.length === 0}
              data={slot.options}
              value={filled(slot)}
              onChange={(v) => v !== null && setValues({ ...values, [slot.dial]: v })}
            />
          ))}
          {palettesOf(view).map((d) => (
            <PalettePick
              key={d.id}
              label={d.label}
              labelled
              value={String(values[d.id] ?? d.value)}
              keep={(v) => setValues({ ...values, [d.id]: v })}
            />
          ))}
          {view?.fit.drawn && <p className="soft">{drawnHere(view.fit.drawn)}</p>}
          {view && view.to_measure.length > 0 && (
            <p className="soft">Measures {view.to_measure.join(", ").toLowerCase()} once it is laid.</p>
          )}
          {view && view.fit.sizes.length > 0 && <Sizes sizes={view.fit.sizes} />}
          <div className="row" style={{ justifyContent: "flex-start" }}>
            <Button onClick={() => void lay()}>Lay it</Button>
            <Button variant="default" onClick={close}>
              Cancel
            </Button>
          </div>
          {slots.some((slot) => filled(slot) === null) && (
            <p className="soft">
              What nothing is picked for shows nothing there; it can be picked later among its dials.
            </p>
          )}
        </div>
      </div>
    </Modal>
  );
}

/** The dials of the recipe that a palette of the project can fill. */
function palettesOf(view: FitView | null): Dial[] {
  if (view?.layer.kind !== "use") return [];
  return view.layer.recipe.dials.filter((d) => kindOf(d) === "palette" && d.formula === undefined);
}

function explained(slot: SlotFit): string {
  if (isThere(slot)) return "This piece has it.";
  if (slot.wanted === "") return "";
  if (slot.takes !== undefined && slot.options.length === 1)
    return `This piece has no ${slot.wanted}; ${slot.takes} is its only ${slot.kind}.`;
  if (slot.takes !== undefined) return `This piece has no ${slot.wanted}; ${slot.takes} is called most like it.`;
  return `This piece has no ${slot.wanted}.`;
}

/** What becomes of the strokes and pins that a recipe keeps. */
function drawnHere({ strokes, pins, shows }: DrawnFit): string {
  const some = [counted(strokes, "stroke"), counted(pins, "pin")].filter((t) => t !== "").join(" and ");
  return shows
    ? `What it keeps by hand (${some}) lies where it was drawn: this piece has the same shape.`
    : `What it keeps by hand (${some}) belongs to a piece of another shape and shows nothing on this one.`;
}

const counted = (n: number, what: string) => (n === 0 ? "" : `${n} ${what}${n === 1 ? "" : "s"}`);

/** How large the patterns come out: those of one kind in one layer in one row. */
function Sizes({ sizes }: { sizes: PatternSize[] }) {
  const rows = new Map<string, PatternSize[]>();
  for (const s of sizes) {
    const key = `${s.layer} › ${s.pattern}`;
    rows.set(key, [...(rows.get(key) ?? []), s]);
  }
  const all = [...rows];
  return (
    <table className="sizes">
      <caption>How large its patterns are here</caption>
      <tbody>
        {all.slice(0, TOLD).map(([name, alike]) => (
          <tr key={name}>
            <td>{name}</td>
            <td className="num">{span(alike.map((s) => s.mm))} mm</td>
            <td className="num soft">{span(alike.map((s) => s.share * 100))} % of the piece</td>
          </tr>
        ))}
        {all.length > TOLD && (
          <tr>
            <td colSpan={3} className="soft">
              and {all.length - TOLD} more
            </td>
          </tr>
        )}
      </tbody>
    </table>
  );
}

/** The least and the greatest of some numbers, as one where they are the same. */
function span(all: number[]): string {
  const [least, most] = [Math.min(...all), Math.max(...all)].map(rounded);
  return least === most ? `${most}` : `${least}–${most}`;
}

const rounded = (n: number) => Number(n.toPrecision(2));
