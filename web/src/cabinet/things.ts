// What lies in the cabinet, of whichever kind, and how it is found.
import Fuse from "fuse.js";

import type { CabinetCard, Entry, FoundPalette, FoundPicture, FoundThings, KeptLine, MarksView } from "../api/types";
import { writePalette } from "../state/colors";
import { sentence } from "../state/document";

export type Thing = {
  key: string;
  name: string;
  note: string;
  tags: string;
  /** What else it is found by, in small letters. */
  inside: string;
  marks: MarksView;
} & (
  | { kind: "recipe"; card: CabinetCard }
  | { kind: "starter"; line: KeptLine }
  | { kind: "finish"; entry: Entry }
  | { kind: "palette"; found: FoundPalette }
  | { kind: "picture"; found: FoundPicture }
);

export type Kind = Thing["kind"];
export type Order = "name" | "newest" | "used";

const lower = (...texts: string[]) => texts.join(" ").toLowerCase();

export function things(cards: CabinetCard[], lines: KeptLine[], catalog: Entry[], found: FoundThings): Thing[] {
  const recipes = cards.map((card): Thing => {
    const { name, note, marks } = card;
    const inside = lower(note, ...card.layers.map((l) => l.name), ...card.dials, ...card.presets);
    return { kind: "recipe", key: `recipe-${card.id}`, name, note, tags: card.tags.join(" "), inside, marks, card };
  });
  const starters = lines.map((line): Thing => {
    const { name, note, marks } = line;
    const inside = lower(note, sentence(line.steps, catalog));
    return { kind: "starter", key: `starter-${line.id}`, name, note, tags: "", inside, marks, line };
  });
  // What is shown here and kept elsewhere.
  const liked = new Set(found.favourites);
  const marked = (key: string) => ({
    key,
    marks: { favourite: liked.has(key), removed: false, laid: 0, made: 0 },
    tags: "",
  });
  const finishes = catalog
    .filter((e) => e.family === "finish")
    .map((entry): Thing => {
      const { kind, label: name, help: note } = entry;
      return { ...marked(`finish-${kind}`), kind: "finish", name, note, inside: lower(note), entry };
    });
  const palettes = found.palettes.map((one): Thing => {
    const { project, palette } = one;
    const note = `Palette of ${project}`;
    const key = `palette-${palette.name}-${writePalette(palette.colors)}`;
    return { ...marked(key), kind: "palette", name: palette.name, note, inside: lower(note), found: one };
  });
  const pictures = found.pictures.map((one): Thing => {
    const { project, picture } = one;
    const note = `Picture of ${project}`;
    return {
      ...marked(`picture-${picture.hash}`),
      kind: "picture",
      name: picture.file,
      note,
      inside: lower(note),
      found: one,
    };
  });
  return [...recipes, ...starters, ...palettes, ...pictures, ...finishes];
}

/** So many things that are called as was typed are enough: mistakes in typing are not looked for then. */
const ENOUGH = 8;

/** Finds by name and tags, those that begin so first; by what is close to them, as typing goes wrong, where there are few; and last what has the very words inside it or in its note. */
export function searcher(all: Thing[]): (text: string) => Thing[] {
  const keys = [
    { name: "name", weight: 2 },
    { name: "tags", weight: 1 },
  ];
  const fuse = new Fuse(all, { keys, threshold: 0.34, ignoreLocation: true, minMatchCharLength: 2 });
  const called = all.map((thing) => ({ thing, words: lower(thing.name, thing.tags) }));
  return (text) => {
    const typed = text.toLowerCase();
    const words = typed.split(/\s+/).filter(Boolean);
    const among = (said: string) => words.every((w) => said.includes(w));
    const so = called.filter((c) => among(c.words));
    const first = so.filter((c) => c.words.startsWith(typed));
    const found = new Set([...first, ...so].map((c) => c.thing));
    if (found.size < ENOUGH) for (const { item } of fuse.search(text)) found.add(item);
    for (const thing of all) if (among(thing.inside)) found.add(thing);
    return [...found];
  };
}

const named = (a: Thing, b: Thing) => a.name.localeCompare(b.name);

/** What comes before what, whatever the order: what is laid, what is taken from other projects, ready finishes. */
const RANKS: Record<Kind, number> = { recipe: 1, starter: 1, palette: 2, picture: 2, finish: 3 };

/** Favourites before all others. */
export function ordered(all: Thing[], order: Order): Thing[] {
  const by = {
    name: named,
    newest: (a: Thing, b: Thing) => b.marks.made - a.marks.made || named(a, b),
    used: (a: Thing, b: Thing) => b.marks.laid - a.marks.laid || named(a, b),
  }[order];
  const rank = (t: Thing) => (t.marks.favourite ? 0 : RANKS[t.kind]);
  return [...all].sort((a, b) => rank(a) - rank(b) || by(a, b));
}
