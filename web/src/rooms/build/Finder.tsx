// The finder: type to search. Every candidate is pictured on this piece, by itself and at this place in the line; the view shows the one that is looked at.
import { Drawer, TextInput } from "@mantine/core";
import { useQueries, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api } from "../../api/client";
import type { CandidateView, Entry, KeptLine, Layer } from "../../api/types";
import { Pixels } from "../../controls/Pixels";
import { glanceAt, lookAway, say } from "../../state/actions";
import { page } from "../../state/evaluate";
import { busy, useStore } from "../../state/store";
import { addSteps, candidateEdit, insertionPlace } from "./steps";

const FAMILIES = ["kept", "starter", "reading", "pattern", "source", "shaper"] as const;
const HEADINGS = {
  kept: "Your starters",
  starter: "Starters",
  reading: "Readings of the piece",
  pattern: "Patterns",
  source: "Other sources",
  shaper: "Shapers",
};

export function Finder({ layer }: { layer: Layer }) {
  const opened = useStore((s) => s.finderOpen);
  const close = () => useStore.setState({ finderOpen: false });
  return (
    <Drawer
      opened={opened}
      onClose={close}
      position="bottom"
      size={372}
      overlayProps={{ backgroundOpacity: 0 }}
      title={
        <>
          <b>Put a step into the mask line of {layer.name}</b>{" "}
          <span className="soft">left half: by itself · right half: the line with it</span>
        </>
      }
    >
      {opened && <Search layer={layer} close={close} />}
    </Drawer>
  );
}

/** A mask line of the cabinet as the catalog would tell of it. */
const keptEntry = ({ id, name, note, steps }: KeptLine): Entry => ({
  kind: `kept-${id}`,
  family: "kept",
  label: name,
  help: note || "A mask line of yours.",
  params: [],
  measured: "",
  sign: "",
  word: "",
  steps,
  opens: false,
  always: false,
});

/** How many candidates stand beside each other. */
function across(): number {
  const row = document.querySelector(".finder");
  return row ? getComputedStyle(row).gridTemplateColumns.split(" ").length : 1;
}

/** How long one has to look at a candidate until the view shows it, in ms. */
const GLANCE = 120;

/** Candidates are previewed a few at a time, those that take longest last, so that the first are seen at once. */
const AT_A_TIME = 8;

function Search({ layer, close }: { layer: Layer; close: () => void }) {
  const catalog = useStore((s) => s.catalog);
  const project = useStore((s) => s.project);
  const size = useStore((s) => s.evaluation?.tile_size);
  const [text, setText] = useState("");
  const [picked, setAt] = useState<number | null>(null);
  const place = insertionPlace(layer);
  // Starters begin a mask; later on single steps are what is looked for.
  const families = place === 0 ? FAMILIES : [...FAMILIES.slice(2), ...FAMILIES.slice(0, 2)];
  const lines = useQuery({ queryKey: ["lines"], queryFn: api.lines });
  const offered: Entry[] = [...catalog, ...(lines.data ?? []).filter((l) => !l.marks.removed).map(keptEntry)];
  const all = families.flatMap((f) => offered.filter((e) => e.family === f));
  const chunks = Array.from({ length: Math.ceil(all.length / AT_A_TIME) }, (_, i) =>
    all.slice(i * AT_A_TIME, (i + 1) * AT_A_TIME),
  );
  const previews = useQueries({
    queries: chunks.map((chunk, i) => ({
      queryKey: ["previews", project?.id, project?.revision, layer.id, place, chunk.map((e) => e.kind).join()],
      queryFn: () =>
        api.preview(
          project?.id ?? 0,
          `${page}/finder/${i}`,
          chunk.map((e) => candidateEdit(layer, place, e)),
        ),
      enabled: project !== null,
      staleTime: 60_000,
    })),
  });
  const fetching = previews.some((p) => p.isFetching);
  useEffect(() => (fetching ? busy() : undefined), [fetching]);
  const words = text.trim().toLowerCase();
  const found = all.filter((e) => `${e.label} ${e.kind} ${e.family} ${e.help}`.toLowerCase().includes(words));
  // What is called that, or begins with it, is meant before what only speaks of it.
  const called = found.findIndex((e) => e.label.toLowerCase() === words);
  const begins = found.findIndex((e) => words !== "" && e.label.toLowerCase().startsWith(words));
  const at = picked ?? (called >= 0 ? called : Math.max(0, begins));
  const pictured = (entry: Entry | undefined): CandidateView | undefined => {
    const i = entry ? all.indexOf(entry) : -1;
    return previews[Math.floor(i / AT_A_TIME)]?.data?.[i % AT_A_TIME];
  };
  const focus = picked !== null || words !== "" ? found[at] : undefined;
  // What was not measured yet is not measured for a glance.
  const glanced = pictured(focus)?.line ? focus?.kind : undefined;
  useEffect(() => {
    const entry = all.find((e) => e.kind === glanced);
    if (!entry) return;
    const timer = window.setTimeout(() => glanceAt(candidateEdit(layer, place, entry)), GLANCE);
    return () => window.clearTimeout(timer);
    // The list is made anew at each drawing; which of it is looked at is what counts.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [glanced]);
  // Closed, the piece is as it was, or as it was taken.
  useEffect(() => lookAway, []);
  const take = (entry: Entry | undefined) => {
    if (!entry) return;
    close();
    void addSteps(layer, place, entry.steps);
    const kept = (lines.data ?? []).find((l) => keptEntry(l).kind === entry.kind);
    if (kept) void api.countLine(kept.id).catch(say);
  };
  const move = (by: number) => setAt(Math.min(Math.max(at + by, 0), Math.max(found.length - 1, 0)));
  const keys: Record<string, () => void> = {
    ArrowRight: () => move(1),
    ArrowLeft: () => move(-1),
    ArrowDown: () => move(across()),
    ArrowUp: () => move(-across()),
    Enter: () => take(found[at]),
  };
  useEffect(() => {
    // Newer browsers return a promise, which is no clean-up.
    void document.querySelector(".candidate.at")?.scrollIntoView({ block: "nearest" });
  }, [at]);
  return (
    <>
      <TextInput
        data-autofocus
        mb="md"
        placeholder="Search: edges, clouds, threshold, rain …"
        aria-label="Search steps"
        value={text}
        onChange={(e) => {
          setText(e.currentTarget.value);
          setAt(null);
        }}
        onKeyDown={(e) => {
          const act = keys[e.key];
          if (!act) return;
          e.preventDefault();
          act();
        }}
      />
      <div className="finder-families">
        {families.map((family) => {
          const members = found.filter((e) => e.family === family);
          if (members.length === 0) return null;
          return (
            <section key={family}>
              <h2>{HEADINGS[family]}</h2>
              <div className="finder">
                {members.map((entry) => {
                  const pictures = pictured(entry);
                  return (
                    <button
                      key={entry.kind}
                      className={found[at] === entry ? "candidate at" : "candidate"}
                      title={entry.help}
                      data-candidate={entry.kind}
                      onClick={() => take(entry)}
                      onMouseMove={() => setAt(found.indexOf(entry))}
                    >
                      {pictures?.line && size ? (
                        <span className="tile-picture halves">
                          <Pixels address={pictures.alone ?? pictures.line} size={size} label="" />
                          {pictures.alone !== null && pictures.alone !== pictures.line && (
                            <span className="right-half">
                              <Pixels address={pictures.line} size={size} label="" />
                            </span>
                          )}
                        </span>
                      ) : (
                        <span className="no-picture">
                          {pictures === undefined ? "…" : entry.measured ? "not measured yet" : "changes nothing here"}
                        </span>
                      )}
                      <b>{entry.label}</b>
                    </button>
                  );
                })}
              </div>
            </section>
          );
        })}
        {found.length === 0 && (
          <p className="soft">
            Nothing is called that. Starters, readings, patterns, sources and shapers can be found by their name or what
            they do.
          </p>
        )}
      </div>
    </>
  );
}
