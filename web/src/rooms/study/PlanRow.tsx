// A row of the plan: what it is, of what, where, how much of it was planned and is there, and the layer that answers it.
import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { ActionIcon, Button, Checkbox, NumberInput, Select, Tooltip } from "@mantine/core";
import { IconGripVertical, IconX } from "@tabler/icons-react";
import { Link } from "wouter";

import type { Element, Whereabouts } from "../../api/types";
import { ColorPatch } from "../../controls/ColorField";
import { NoteButton, NoteWords } from "../../controls/Note";
import { useDraft } from "../../controls/useDraft";
import { commit, select } from "../../state/actions";
import { allLayers, findLayer, percent } from "../../state/document";
import { useStore } from "../../state/store";

export function PlanRow({ element }: { element: Element }) {
  const { setNodeRef, attributes, listeners, transform, transition } = useSortable({ id: element.id });
  const visible = useStore((s) => s.evaluation?.coverage.find((c) => c.layer === element.layer)?.visible);
  const set = (change: Partial<Element>) => void commit({ edit: "set_element", element: { ...element, ...change } });
  const near = useStore((s) => s.project?.plan.near ?? 0);
  const off = visible !== undefined && element.share !== undefined && Math.abs(visible - element.share) > near;
  return (
    <div
      ref={setNodeRef}
      className={`plan-row${element.done ? " done" : ""}`}
      role="listitem"
      data-element={element.name}
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      <span
        className="plan-grip"
        {...attributes}
        {...listeners}
        aria-label={`Move ${element.name}: space, then the arrow keys`}
      >
        <IconGripVertical size={13} />
      </span>
      <ColorPatch label={`Colour of ${element.name}`} value={element.color} keep={(color) => set({ color })} />
      <div className="plan-words">
        <Words label="Element" value={element.name} strong needed keep={(name) => set({ name })} />
        <Words
          label={`Material of ${element.name}`}
          value={element.material ?? ""}
          placeholder="material"
          keep={(material) => set({ material })}
        />
        <Place element={element} set={set} />
        <NoteWords note={element.note} />
      </div>
      <Share element={element} />
      <b
        className={off ? "warn" : undefined}
        data-there
        title={off ? `Further than ${percent(near)} from what was planned` : undefined}
      >
        {visible === undefined ? "–" : percent(visible)}
      </b>
      <div className="plan-answer">
        <Answer element={element} set={set} />
        <span className="plan-tools">
          <Checkbox
            size="xs"
            label="done"
            aria-label={`${element.name} is done`}
            checked={element.done ?? false}
            onChange={(e) => set({ done: e.currentTarget.checked })}
          />
          <NoteButton of={element.name} note={element.note} keep={(note) => set({ note })} />
          <Tooltip label="Take the row out; its layer stays">
            <ActionIcon
              size={18}
              aria-label={`Take ${element.name} out of the plan`}
              onClick={() => void commit({ edit: "remove_element", element: element.id })}
            >
              <IconX size={13} />
            </ActionIcon>
          </Tooltip>
        </span>
      </div>
    </div>
  );
}

function unsaid(element: Element): Element {
  const rest = { ...element };
  delete rest.share;
  return rest;
}

function unanswered(element: Element): Element {
  const rest = { ...element };
  delete rest.layer;
  return rest;
}

interface Setting {
  element: Element;
  set: (change: Partial<Element>) => void;
}

function Place({ element, set }: Setting) {
  const places = useStore((s) => s.project?.plan.places);
  const parts = useStore((s) => s.project?.piece.parts);
  return (
    <div className="plan-place">
      <Select
        size="xs"
        aria-label={`Where ${element.name} lies`}
        data={(places ?? []).map(([value, label]) => ({ value, label }))}
        value={element.place}
        allowDeselect={false}
        onChange={(v) => v !== null && set({ place: v as Whereabouts })}
      />
      {element.place === "part" && (
        <Select
          size="xs"
          aria-label={`Part of ${element.name}`}
          placeholder="which part"
          data={[...new Set((parts ?? []).map((p) => p.name))]}
          value={element.part ?? null}
          allowDeselect={false}
          onChange={(part) => part !== null && set({ part })}
        />
      )}
    </div>
  );
}

function Share({ element }: { element: Element }) {
  const [draft, setDraft] = useDraft<number | undefined, string | number>(element.share, (v) =>
    v === undefined ? "" : Math.round(v * 1000) / 10,
  );
  const keep = () => {
    const share = draft === "" ? undefined : Math.min(100, Math.max(0, Number(draft))) / 100;
    if (share === element.share) return;
    void commit({
      edit: "set_element",
      element: share === undefined ? unsaid(element) : { ...element, share },
    });
  };
  return (
    <NumberInput
      className="plan-share"
      size="xs"
      hideControls
      suffix=" %"
      min={0}
      max={100}
      decimalScale={1}
      aria-label={`Share of ${element.name}, in percent; empty says nothing`}
      placeholder="–"
      value={draft}
      onChange={setDraft}
      onBlur={keep}
      onKeyDown={(e) => e.key === "Enter" && keep()}
    />
  );
}

/** The layer that answers a row, to go to or to choose; or a button that lays one. */
function Answer({ element, set }: Setting) {
  const layers = useStore((s) => s.project?.document.layers);
  const project = useStore((s) => s.project?.id ?? 0);
  const all = allLayers(layers ?? []);
  const layer = element.layer === undefined ? undefined : findLayer(layers ?? [], element.layer);
  const choose = (
    <Select
      className="plan-choose"
      size="xs"
      searchable
      aria-label={`Layer that answers ${element.name}`}
      placeholder="or a layer"
      data={[{ value: "", label: "none" }, ...all.map((l) => ({ value: l.id, label: l.name }))]}
      value={element.layer ?? null}
      comboboxProps={{ width: 200, position: "bottom-end" }}
      onChange={(v) => {
        if (v) set({ layer: v });
        else void commit({ edit: "set_element", element: unanswered(element) });
      }}
    />
  );
  if (layer)
    return (
      <span className="plan-layer">
        <Link
          href={`/p/${project}/build${location.search}`}
          className="cut"
          title={`To ${layer.name} in Build`}
          onClick={() => select(layer.id)}
        >
          {layer.name}
        </Link>
        {choose}
      </span>
    );
  return (
    <span className="plan-layer">
      <Button
        size="compact-xs"
        variant="default"
        aria-label={`Lay ${element.name} flat`}
        onClick={() => void commit({ edit: "block_in", elements: [element.id] })}
      >
        Lay it flat
      </Button>
      {choose}
    </span>
  );
}

interface WordsProps {
  label: string;
  value: string;
  placeholder?: string;
  strong?: boolean;
  needed?: boolean;
  keep: (text: string) => void;
}

/** Words that are written where they stand. */
function Words({ label, value, placeholder, strong = false, needed = false, keep }: WordsProps) {
  const [text, setText] = useDraft(value, (v) => v);
  const done = () => {
    const now = text.trim();
    if (now === value) return;
    if (needed && now === "") setText(value);
    else keep(now);
  };
  return (
    <input
      className={`part-name${strong ? " strong" : ""}`}
      aria-label={label}
      placeholder={placeholder}
      maxLength={120}
      value={text}
      onChange={(e) => setText(e.currentTarget.value)}
      onBlur={done}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}
