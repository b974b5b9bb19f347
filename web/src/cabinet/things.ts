// What lies in the cabinet, of whichever kind, and how it is found.
import Fuse from "fuse.js";

import type { CabinetCard, Entry, KeptLine, MarksView } from "../api/types";

export type Thing = {
  key: string;
  name: string;
  note: string;
  /** What else it is found by. */
  words: string;
  marks: MarksView;
} & ({ kind: "recipe"; card: CabinetCard } | { kind: "starter"; line: KeptLine } | { kind: "finish"; entry: Entry });

export type Kind = Thing["kind"];
export type Order = "name" | "newest" | "used";

const NO_MARKS: MarksView = { favourite: false, removed: false, laid: 0, made: 0 };

export function things(cards: CabinetCard[], lines: KeptLine[], catalog: Entry[]): Thing[] {
  const recipes = cards.map((card): Thing => {
    const words = [...card.tags, ...card.layers.map((l) => l.name), ...card.dials, ...card.presets].join(" ");
    const { name, note, marks } = card;
    return { kind: "recipe", key: `recipe-${card.id}`, name, note, words, marks, card };
  });
  const starters = lines.map((line): Thing => {
    const words = line.steps.map((s) => s.kind).join(" ");
    return {
      kind: "starter",
      key: `starter-${line.id}`,
      name: line.name,
      note: line.note,
      words,
      marks: line.marks,
      line,
    };
  });
  const finishes = catalog
    .filter((e) => e.family === "finish")
    .map((entry): Thing => {
      const { kind, label: name, help: note } = entry;
      return { kind: "finish", key: `finish-${kind}`, name, note, words: "", marks: NO_MARKS, entry };
    });
  return [...recipes, ...starters, ...finishes];
}

/** Finds by name, tags, note and what is inside, typing errors forgiven; the best first. */
export function searcher(all: Thing[]): (text: string) => Thing[] {
  const keys = [
    { name: "name", weight: 3 },
    { name: "words", weight: 1 },
    { name: "note", weight: 1 },
  ];
  const fuse = new Fuse(all, { keys, threshold: 0.34, ignoreLocation: true, minMatchCharLength: 2 });
  return (text) => fuse.search(text).map((found) => found.item);
}

const named = (a: Thing, b: Thing) => a.name.localeCompare(b.name);

/** Favourites first and ready finishes last, whatever the order. */
export function ordered(all: Thing[], order: Order): Thing[] {
  const by = {
    name: named,
    newest: (a: Thing, b: Thing) => b.marks.made - a.marks.made || named(a, b),
    used: (a: Thing, b: Thing) => b.marks.laid - a.marks.laid || named(a, b),
  }[order];
  const rank = (t: Thing) => (t.marks.favourite ? 0 : t.kind === "finish" ? 2 : 1);
  return [...all].sort((a, b) => rank(a) - rank(b) || by(a, b));
}
