// The files of a layout: which are written, of what kind, and what lies in each channel of them.
import { Button, Checkbox, Select, TextInput } from "@mantine/core";
import { IconChevronDown, IconChevronRight, IconX } from "@tabler/icons-react";
import { useState } from "react";

import type { FileChannel, FileKind, FileRow, HandoffView } from "../../api/types";
import { useDraft } from "../../controls/useDraft";
import { Channel } from "./Channel";

const LETTERS = ["R", "G", "B", "A"];

interface Props {
  plan: HandoffView;
  change: (files: FileRow[]) => void;
}

export function FileRows({ plan, change }: Props) {
  const [open, setOpen] = useState<number | null>(null);
  const { files } = plan.layout;
  const set = (i: number, row: FileRow) => change(files.map((f, k) => (k === i ? row : f)));
  const add = () => {
    change([...files, plan.fresh]);
    setOpen(files.length);
  };
  const added = plan.files.filter((f) => f.added);
  return (
    <div className="block layout-files">
      <div role="list" aria-label="Files">
        {files.map((row, i) =>
          plan.unlaid.includes(i) ? null : (
            <Row
              key={i}
              row={row}
              place={i}
              plan={plan}
              open={open === i}
              turn={() => setOpen(open === i ? null : i)}
              set={(next) => set(i, next)}
              remove={() => {
                setOpen(null);
                change(files.filter((_, k) => k !== i));
              }}
            />
          ),
        )}
      </div>
      {added.length > 0 && (
        <p className="soft">Written as well, since other files want them: {added.map((f) => f.name).join(", ")}.</p>
      )}
      {plan.unlaid.length > 0 && (
        <p className="soft">
          Left out, since no coat lays them: {plan.unlaid.map((i) => files[i]?.map.replaceAll("_", " ")).join(", ")}.
        </p>
      )}
      <div>
        <Button size="compact-sm" variant="default" onClick={add}>
          Add a file
        </Button>
      </div>
    </div>
  );
}

interface RowProps {
  row: FileRow;
  /** Its place in the layout. */
  place: number;
  plan: HandoffView;
  open: boolean;
  turn: () => void;
  set: (row: FileRow) => void;
  remove: () => void;
}

function Row({ row, place, plan, open, turn, set, remove }: RowProps) {
  const mine = plan.files.filter((f) => f.row === place && !f.added);
  const label = plan.kinds.find((k) => k.kind === row.kind)?.label ?? row.kind;
  const first = mine[0];
  const what = row.bits > 0 ? `${label} ${row.bits}` : label;
  return (
    <div role="listitem" className="file-row" data-file={row.map} data-kind={row.kind}>
      <Checkbox
        size="xs"
        aria-label={`Write ${row.map}, ${label}`}
        checked={row.on}
        onChange={(e) => set({ ...row, on: e.currentTarget.checked })}
      />
      <button className="file-head" aria-expanded={open} aria-label={`${row.map}, ${what}`} onClick={turn}>
        <b className="cut">{row.map.replaceAll("_", " ")}</b>
        <small className="soft">{what}</small>
        {open ? <IconChevronDown size={14} /> : <IconChevronRight size={14} />}
      </button>
      {row.on && first && (
        <div className="file-told">
          {mine.map((f) => (
            <span key={f.name} className="mono">
              {f.name}
            </span>
          ))}
          <small className="soft">{first.channels}</small>
        </div>
      )}
      {open && <Edit row={row} plan={plan} set={set} remove={remove} />}
    </div>
  );
}

type EditProps = Pick<RowProps, "row" | "plan" | "set" | "remove">;

function Edit({ row, plan, set, remove }: EditProps) {
  const [name, setName] = useDraft(row.map, (v) => v);
  const rename = () => {
    const text = name.trim();
    if (text !== "" && text !== row.map) set({ ...row, map: text });
    else setName(row.map);
  };
  const here = plan.kinds.find((k) => k.kind === row.kind);
  const bits = here?.depths ?? [];
  const floats = here?.float ?? false;
  const slots = row.slots ?? [];
  // Pictures become other pictures, all else other files of its kind.
  const kinds = plan.kinds.filter((k) => k.depths.length > 0 === bits.length > 0);
  const turn = (kind: FileKind) => {
    const may = plan.kinds.find((k) => k.kind === kind)?.depths ?? [];
    set({ ...row, kind, bits: may.includes(row.bits) ? row.bits : (may[0] ?? 0) });
  };
  const put = (i: number, slot: FileChannel | null) =>
    set({ ...row, slots: slot ? slots.map((s, k) => (k === i ? slot : s)) : slots.filter((_, k) => k !== i) });
  const grey = slots.length < 3;
  const letter = (i: number) => (slots.length > 4 ? String(i + 1) : grey ? (i === 0 ? "Y" : "A") : (LETTERS[i] ?? ""));
  return (
    <div className="file-edit">
      <div className="triple">
        <TextInput
          label="Called"
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
          onBlur={rename}
          onKeyDown={(e) => e.key === "Enter" && rename()}
        />
        <Select
          label="Kind"
          data={kinds.map((k) => ({ value: k.kind, label: k.label }))}
          value={row.kind}
          onChange={(v) => v && turn(v as FileKind)}
        />
        {bits.length > 0 && (
          <Select
            label="Bits"
            data={bits.map(String)}
            value={String(row.bits)}
            onChange={(v) => v && set({ ...row, bits: Number(v) })}
          />
        )}
      </div>
      {bits.length > 0 && !floats && (
        <Checkbox
          size="xs"
          label="Colours are sRGB-encoded"
          checked={row.srgb ?? false}
          onChange={(e) => set({ ...row, srgb: e.currentTarget.checked })}
        />
      )}
      {slots.map((slot, i) => (
        <Channel
          key={i}
          letter={letter(i)}
          slot={slot}
          floats={floats}
          offered={plan.offered}
          set={(next) => put(i, next)}
          remove={slots.length > 1 ? () => put(i, null) : null}
        />
      ))}
      <div className="row">
        {bits.length > 0 && slots.length < (here?.most ?? 0) && (
          <Button size="compact-xs" variant="subtle" onClick={() => set({ ...row, slots: [...slots, { from: "0" }] })}>
            Add a channel
          </Button>
        )}
        <Button size="compact-xs" variant="subtle" color="gray" leftSection={<IconX size={12} />} onClick={remove}>
          Take the file off
        </Button>
      </div>
    </div>
  );
}
