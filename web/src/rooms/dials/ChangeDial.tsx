// What a dial is: a new one, or one that is there, described in a box.
import {
  ActionIcon,
  Button,
  NumberInput,
  Popover,
  SegmentedControl,
  Select,
  Switch,
  Textarea,
  TextInput,
  Tooltip,
} from "@mantine/core";
import { IconPencil, IconPlus } from "@tabler/icons-react";
import { useState } from "react";

import type { Dial, DialKind, Value } from "../../api/types";
import { FormulaField } from "../../controls/FormulaField";
import { commit } from "../../state/actions";
import { kindOf, specOf } from "../../state/document";
import { useStore } from "../../state/store";

const KINDS: { value: DialKind; label: string; begins: Value }[] = [
  { value: "number", label: "Number", begins: 0.5 },
  { value: "switch", label: "Switch", begins: false },
  { value: "choice", label: "Choice", begins: "a" },
  { value: "color", label: "Colour", begins: "#808080" },
  { value: "seed", label: "Seed", begins: 1 },
  { value: "part", label: "Part of the piece", begins: "" },
  { value: "picture", label: "Picture", begins: "" },
  { value: "palette", label: "Palette", begins: "#6f7f86 0.6, #8a4b2a 0.4" },
];

/** A dial of a kind with nothing said of it yet. */
function fresh(kind: DialKind): Dial {
  const begins = KINDS.find((k) => k.value === kind)?.begins ?? 0;
  return {
    id: "",
    label: "",
    kind,
    group: "",
    unit: "",
    min: 0,
    max: kind === "seed" ? 9999 : 1,
    default: begins,
    value: begins,
    ...(kind === "choice"
      ? {
          options: [
            { key: "a", label: "One" },
            { key: "b", label: "Another" },
          ],
        }
      : {}),
  };
}

export function NewDial() {
  const [opened, setOpened] = useState(false);
  return (
    <Popover opened={opened} onChange={setOpened} position="left-start" width={288} withinPortal trapFocus>
      <Popover.Target>
        <Button variant="default" leftSection={<IconPlus size={13} />} onClick={() => setOpened(!opened)}>
          New dial
        </Button>
      </Popover.Target>
      <Popover.Dropdown aria-label="New dial">
        {opened && (
          <Describe
            dial={fresh("number")}
            keep={(dial) => commit({ edit: "add_dial", dial })}
            close={() => setOpened(false)}
          />
        )}
      </Popover.Dropdown>
    </Popover>
  );
}

export function ChangeDial({ dial }: { dial: Dial }) {
  const [opened, setOpened] = useState(false);
  const title = `Change the dial ${dial.label}`;
  return (
    <Popover opened={opened} onChange={setOpened} position="left-start" width={288} withinPortal trapFocus>
      <Popover.Target>
        <Tooltip label="Change the dial itself">
          <ActionIcon aria-label={title} onClick={() => setOpened(!opened)}>
            <IconPencil size={15} />
          </ActionIcon>
        </Tooltip>
      </Popover.Target>
      <Popover.Dropdown aria-label={title}>
        {opened && <Inside dial={dial} close={() => setOpened(false)} />}
      </Popover.Dropdown>
    </Popover>
  );
}

function Inside({ dial, close }: { dial: Dial; close: () => void }) {
  const [formula, setFormula] = useState(false);
  const number = kindOf(dial) === "number";
  return (
    <>
      {number && (
        <SegmentedControl
          fullWidth
          mb={8}
          data={[
            { value: "described", label: "What it is" },
            { value: "led", label: "What sets it" },
          ]}
          value={formula ? "led" : "described"}
          onChange={(v) => setFormula(v === "led")}
        />
      )}
      {formula ? (
        <Led dial={dial} close={close} />
      ) : (
        <Describe dial={dial} keep={(next) => commit({ edit: "set_dial", dial: next })} close={close} />
      )}
    </>
  );
}

/** Whether a number is turned by hand or follows a formula. */
function Led({ dial, close }: { dial: Dial; close: () => void }) {
  const written = useStore((s) => s.project?.derived[dial.id]?.formula);
  const [by, setBy] = useState(written === undefined ? "hand" : "formula");
  const [text, setText] = useState(written ?? "");
  const edit = (t: string | null) => ({ edit: "follow_formula" as const, dial: dial.id, text: t });
  const keep = () => {
    if (text.trim() !== "") void commit(edit(text)).then((kept) => kept && close());
  };
  return (
    <div className="drive-box">
      <SegmentedControl
        fullWidth
        data={[
          { value: "hand", label: "Turned by hand" },
          { value: "formula", label: "Follows a formula" },
        ]}
        value={by}
        onChange={(v) => {
          setBy(v);
          if (v === "hand" && written !== undefined) void commit(edit(null));
        }}
      />
      {by === "formula" && (
        <>
          <FormulaField
            label={`${dial.label} follows`}
            spec={specOf(dial)}
            text={text}
            setText={setText}
            edit={edit}
            own={dial.id}
            done={keep}
          />
          <Button onClick={keep} disabled={text.trim() === ""}>
            Let it follow
          </Button>
        </>
      )}
    </div>
  );
}

interface DescribeProps {
  dial: Dial;
  keep: (dial: Dial) => Promise<unknown>;
  close: () => void;
}

function Describe({ dial, keep, close }: DescribeProps) {
  const [draft, setDraft] = useState(dial);
  const kind = kindOf(draft);
  const text = (label: string, key: "label" | "group" | "unit" | "help") => (
    <TextInput
      label={label}
      value={draft[key] ?? ""}
      onChange={(e) => setDraft({ ...draft, [key]: e.currentTarget.value })}
    />
  );
  const number = (label: string, key: "min" | "max" | "default" | "step") => (
    <NumberInput
      label={label}
      value={Number(draft[key] ?? 0)}
      onChange={(v) => typeof v === "number" && setDraft({ ...draft, [key]: v })}
    />
  );
  const done = () => {
    const inside = (v: Value) => (typeof v === "number" ? Math.min(draft.max, Math.max(draft.min, v)) : v);
    const keys = (draft.options ?? []).map((o) => o.key);
    const among = (v: Value) => (kind === "choice" && !keys.includes(String(v)) ? (keys[0] ?? v) : inside(v));
    const value = dial.id === "" ? draft.default : draft.value;
    const next = { ...draft, label: draft.label.trim(), group: draft.group.trim(), help: (draft.help ?? "").trim() };
    void keep({ ...next, default: among(draft.default), value: among(value) }).then((kept) => kept && close());
  };
  return (
    <form
      className="drive-box"
      onSubmit={(e) => {
        e.preventDefault();
        done();
      }}
    >
      {dial.id === "" && (
        <Select
          label="It takes"
          data={KINDS.map(({ value, label }) => ({ value, label }))}
          value={kind}
          onChange={(v) => {
            const { label, group, help } = draft;
            setDraft({ ...fresh(v as DialKind), label, group, ...(help === undefined ? {} : { help }) });
          }}
          comboboxProps={{ withinPortal: false }}
        />
      )}
      <div className="pair">
        {text("Name", "label")}
        {text("Group", "group")}
      </div>
      {text("Help, in a line", "help")}
      {kind === "number" && (
        <>
          <div className="pair">
            {number("From", "min")}
            {number("To", "max")}
          </div>
          <div className="pair">
            {number("Default", "default")}
            {text("Unit", "unit")}
          </div>
          <div className="pair">
            {number("In steps of (0: any)", "step")}
            <Switch
              label="In ratios"
              mt={26}
              checked={draft.log ?? false}
              onChange={(e) => setDraft({ ...draft, log: e.currentTarget.checked })}
            />
          </div>
        </>
      )}
      {kind === "seed" && (
        <div className="pair">
          {number("From", "min")}
          {number("To", "max")}
        </div>
      )}
      {kind === "choice" && <Options draft={draft} setDraft={setDraft} />}
      <When draft={draft} setDraft={setDraft} />
      <Button type="submit" disabled={draft.label.trim() === ""}>
        {dial.id === "" ? "Make it" : "Keep"}
      </Button>
    </form>
  );
}

interface DraftProps {
  draft: Dial;
  setDraft: (dial: Dial) => void;
}

/** A choice's options, one a line. A label that was there keeps its key, and so does one that was renamed in its place. */
function Options({ draft, setDraft }: DraftProps) {
  const options = draft.options ?? [];
  const [text, setText] = useState(options.map((o) => o.label).join("\n"));
  const read = (written: string) => {
    setText(written);
    const labels = written.split("\n").filter((label) => label.trim() !== "");
    const same = (label: string) => options.find((o) => o.label === label)?.key;
    const stays = (at: number) => (labels.includes(options[at]?.label ?? "") ? undefined : options[at]?.key);
    const taken = new Set(labels.flatMap((label) => same(label) ?? []));
    const next = labels.map((label, i) => {
      const kept = same(label);
      if (kept !== undefined) return { key: kept, label };
      let key = stays(i) ?? `o${i + 1}`;
      while (taken.has(key)) key = `${key}x`;
      taken.add(key);
      return { key, label };
    });
    setDraft({ ...draft, options: next });
  };
  return (
    <Textarea
      label="Options, one a line"
      autosize
      minRows={2}
      maxRows={6}
      value={text}
      onChange={(e) => read(e.currentTarget.value)}
    />
  );
}

/** Shows it only while a switch or a choice stands so. */
function When({ draft, setDraft }: DraftProps) {
  const dials = useStore((s) => s.project?.document.dials);
  const others = (dials ?? []).filter((d) => d.id !== draft.id && ["switch", "choice"].includes(kindOf(d)));
  if (others.length === 0) return null;
  const data = others.flatMap((d) =>
    kindOf(d) === "switch"
      ? [
          { value: JSON.stringify([d.id, true]), label: `${d.label} is on` },
          { value: JSON.stringify([d.id, false]), label: `${d.label} is off` },
        ]
      : (d.options ?? []).map((o) => ({ value: JSON.stringify([d.id, o.key]), label: `${d.label} is ${o.label}` })),
  );
  const now = draft.when ? JSON.stringify([draft.when.dial, draft.when.is]) : "always";
  return (
    <Select
      label="Shown"
      data={[{ value: "always", label: "always" }, ...data]}
      value={now}
      onChange={(v) => {
        const next = { ...draft };
        delete next.when;
        if (v !== null && v !== "always") {
          const [dial, is] = JSON.parse(v) as [string, Value];
          next.when = { dial, is };
        }
        setDraft(next);
      }}
      comboboxProps={{ withinPortal: false }}
    />
  );
}
