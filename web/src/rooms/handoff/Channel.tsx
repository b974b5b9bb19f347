// One channel of a file: where its numbers come from, which of them are 0 and 1, and whether these change places.
import { ActionIcon, Checkbox, NumberInput, Select } from "@mantine/core";
import { IconX } from "@tabler/icons-react";

import type { FileChannel, Offered } from "../../api/types";
import { Reset } from "../../controls/Reset";
import { useDraft } from "../../controls/useDraft";

interface Props {
  letter: string;
  slot: FileChannel;
  /** Whether numbers stay as they are where no range is given. */
  floats: boolean;
  offered: Offered[];
  set: (slot: FileChannel) => void;
  remove: (() => void) | null;
}

export function Channel({ letter, slot, floats, offered, set, remove }: Props) {
  const families = [...new Set(offered.map((o) => o.family))];
  const there = offered.some((o) => o.from === slot.from);
  const groups = families.map((group) => ({
    group,
    items: offered.filter((o) => o.family === group).map((o) => ({ value: o.from, label: o.label })),
  }));
  const usual = offered.find((o) => o.from === slot.from)?.range ?? null;
  const other = { group: "As it stands", items: [{ value: slot.from, label: slot.from }] };
  return (
    <div className="channel-row" role="group" aria-label={`Channel ${letter}`}>
      <span className="channel-letter">{letter}</span>
      <Select
        size="xs"
        searchable
        aria-label={`What lies in ${letter}`}
        data={there ? groups : [other, ...groups]}
        value={slot.from}
        onChange={(v) => v && set({ from: v })}
      />
      <Checkbox
        size="xs"
        label="inverted"
        checked={slot.invert ?? false}
        onChange={(e) => set({ ...slot, invert: e.currentTarget.checked })}
      />
      {remove ? (
        <ActionIcon size="sm" variant="subtle" aria-label={`Take ${letter} away`} onClick={remove}>
          <IconX size={14} />
        </ActionIcon>
      ) : (
        <span />
      )}
      <Range slot={slot} letter={letter} usual={floats ? null : usual} set={set} />
    </div>
  );
}

/** The numbers that become 0 and 1; both left empty are the usual ones. */
function Range({ slot, letter, usual, set }: Pick<Props, "slot" | "letter" | "set"> & { usual: number[] | null }) {
  const said = JSON.stringify(slot.range ?? null);
  const [draft, setDraft] = useDraft<string, [string | number, string | number]>(said, () => slot.range ?? ["", ""]);
  const reset = () => {
    const { from, invert } = slot;
    set(invert ? { from, invert } : { from });
  };
  const keep = () => {
    const numbers = draft.map((v) => (v === "" ? null : Number(v)));
    const [low, high] = numbers;
    if (typeof low === "number" && typeof high === "number") {
      if (JSON.stringify([low, high]) !== said) set({ ...slot, range: [low, high] });
    } else if (low === null && high === null && said !== "null") reset();
  };
  const field = (i: 0 | 1, label: string) => (
    <NumberInput
      size="xs"
      hideControls
      aria-label={`${label} in ${letter}`}
      placeholder={usual ? String(usual[i]) : "as it is"}
      value={draft[i]}
      onChange={(v) => setDraft(i === 0 ? [v, draft[1]] : [draft[0], v])}
      onBlur={keep}
      onKeyDown={(e) => e.key === "Enter" && keep()}
    />
  );
  return (
    <div className="channel-range">
      <small className="soft">from</small>
      {field(0, "What becomes 0")}
      <small className="soft">to</small>
      {field(1, "What becomes 1")}
      <Reset
        label={`the range in ${letter}`}
        to={usual ? `${usual[0]} to ${usual[1]}` : "the numbers as they are"}
        changed={slot.range !== undefined}
        size={13}
        reset={reset}
      />
    </div>
  );
}
