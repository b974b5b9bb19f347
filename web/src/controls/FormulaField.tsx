// A formula: names are completed while one types, what it comes to is shown, and the place of an error is marked.
import { Combobox, Textarea, useCombobox } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useEffect, useRef, useState } from "react";

import { api } from "../api/client";
import type { Edit, Entry, ParamSpec, TriedFormula } from "../api/types";
import { useStore } from "../state/store";
import { spoken } from "./spoken";

interface Props {
  label: string;
  spec: Pick<ParamSpec, "unit" | "type" | "choices">;
  text: string;
  setText: (text: string) => void;
  /** What would be kept: it is tried as one types. */
  edit: (text: string) => Edit;
  /** The dial that follows it, which it can't name. */
  own?: string;
  /** Asks for it to be kept. */
  done: () => void;
}

interface Offer {
  label: string;
  /** What is written. */
  text: string;
  help: string;
}

/** How a name begins that ends at the caret: within braces, or a word. */
const BEGUN = /(\{[^{}]*|[\p{L}_][\p{L}\p{N}_]*)$/u;
const MOST = 8;

export function FormulaField({ label, spec, text, setText, edit, own, done }: Props) {
  const field = useRef<HTMLTextAreaElement>(null);
  const catalog = useStore((s) => s.catalog);
  const dials = useStore((s) => s.project?.document.dials);
  const [caret, setCaret] = useState(text.length);
  const list = useCombobox();
  const begun = BEGUN.exec(text.slice(0, caret))?.[0] ?? "";
  const asked = begun.replace("{", "").toLowerCase();
  const named: Offer[] = (dials ?? [])
    .filter((d) => d.id !== own)
    .map((d) => ({ label: d.label, text: `{${d.label}}`, help: d.group || "dial" }));
  const all = [...named, ...(begun.startsWith("{") ? [] : functions(catalog))];
  const offers = begun === "" ? [] : all.filter((o) => o.label.toLowerCase().startsWith(asked)).slice(0, MOST);
  const insert = (offer: Offer) => {
    const start = caret - begun.length;
    const end = text[caret] === "}" && offer.text.endsWith("}") ? caret + 1 : caret;
    setText(text.slice(0, start) + offer.text + text.slice(end));
    const place = start + offer.text.length;
    list.closeDropdown();
    // The caret goes behind what was written once it is there.
    requestAnimationFrame(() => {
      field.current?.focus();
      field.current?.setSelectionRange(place, place);
      setCaret(place);
    });
  };
  return (
    <Combobox
      store={list}
      withinPortal={false}
      onOptionSubmit={(at) => {
        const offer = offers[Number(at)];
        if (offer) insert(offer);
      }}
    >
      <Combobox.Target>
        <Textarea
          ref={field}
          label={label}
          className="formula"
          autosize
          minRows={1}
          maxRows={5}
          maxLength={400}
          spellCheck={false}
          data-autofocus
          placeholder="as 0.2 + Wear / 2"
          value={text}
          onChange={(e) => {
            setText(e.currentTarget.value.replace(/\n/g, " "));
            setCaret(e.currentTarget.selectionStart);
            list.openDropdown();
            list.selectFirstOption();
          }}
          onSelect={(e) => setCaret(e.currentTarget.selectionStart)}
          onBlur={() => list.closeDropdown()}
          onKeyDown={(e) => {
            if (e.key === "Enter" && !(list.dropdownOpened && offers.length > 0)) {
              e.preventDefault();
              done();
            }
          }}
        />
      </Combobox.Target>
      <Combobox.Dropdown hidden={offers.length === 0}>
        <Combobox.Options aria-label="Names to choose from">
          {offers.map((o, i) => (
            <Combobox.Option key={o.text} value={String(i)}>
              <span className="mono">{o.label}</span> <span className="soft">{o.help}</span>
            </Combobox.Option>
          ))}
        </Combobox.Options>
      </Combobox.Dropdown>
      <Comes text={text} spec={spec} edit={edit} />
    </Combobox>
  );
}

const functions = (catalog: Entry[]): Offer[] =>
  catalog
    .filter((e) => e.family === "function")
    .map((e) => ({ label: `${e.kind}(${e.word})`, text: `${e.kind}(`, help: e.help }));

/** What a formula comes to. */
function Comes({ text, spec, edit }: Pick<Props, "text" | "spec" | "edit">) {
  const project = useStore((s) => s.project?.id);
  const [asked] = useDebouncedValue(text, 120);
  const [tried, setTried] = useState<{ text: string; came: TriedFormula } | null>(null);
  useEffect(() => {
    if (project === undefined || asked.trim() === "") return;
    let wanted = true;
    const hear = (came: TriedFormula) => wanted && setTried({ text: asked, came });
    // Nothing is lost if it can't be tried: keeping it says why.
    api.tryFormula(project, edit(asked)).then(hear, () => undefined);
    return () => {
      wanted = false;
    };
    // What is tried hangs on the text alone while the field is open.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [project, asked]);
  if (text.trim() === "") {
    return (
      <p className="soft formula-says">Dials by name, + − * / ^, comparisons, and functions as min, mix or step.</p>
    );
  }
  if (!tried || tried.text !== text) return <p className="soft formula-says">…</p>;
  const { value, bounded, error } = tried.came;
  if (error) {
    const end = error.at + Math.max(1, error.length);
    return (
      <p className="formula-says" role="alert" data-testid="formula-error">
        <span className="mono">
          {text.slice(0, error.at)}
          <mark>{text.slice(error.at, end) || " "}</mark>
          {text.slice(end)}
        </span>
        <br />
        {error.why}.
      </p>
    );
  }
  return (
    <p className="formula-says" data-testid="formula-value">
      = <span className="mono">{value === null ? "" : spoken(spec, value)}</span> {bounded}
    </p>
  );
}
