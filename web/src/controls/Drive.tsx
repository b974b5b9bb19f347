// The small drive button of a setting: turns it into a dial, lets an existing dial drive it, or releases it.
import { Button, NumberInput, Popover, Select, TextInput, Tooltip } from "@mantine/core";
import { useState } from "react";

import type { Dial, DialDrive, ParamSpec, Target, Value } from "../api/types";
import { commit } from "../state/actions";
import { setParam, shownNumber } from "../state/document";
import { useStore } from "../state/store";

interface Props {
  spec: ParamSpec;
  value: Value;
  target: Target;
  driven: DialDrive | null;
}

export function Drive(props: Props) {
  const [opened, setOpened] = useState(false);
  const { spec, driven } = props;
  const title = driven ? `Dial that drives ${spec.label}` : `Drive ${spec.label} by a dial`;
  return (
    <Popover opened={opened} onChange={setOpened} position="left-start" width={264} withinPortal trapFocus>
      <Popover.Target>
        <Tooltip label={title}>
          <button className={driven ? "drive on" : "drive"} aria-label={title} onClick={() => setOpened(!opened)}>ƒ</button>
        </Tooltip>
      </Popover.Target>
      <Popover.Dropdown>
        {opened && (driven ? <Driven {...props} driven={driven} close={() => setOpened(false)} /> : <Make {...props} close={() => setOpened(false)} />)}
      </Popover.Dropdown>
    </Popover>
  );
}

const NEW = "new";

/** What the setting is at the dial's two ends. */
function Ends({ spec, low, high, set }: { spec: ParamSpec; low: number; high: number; set: (low: number, high: number) => void }) {
  const field = (label: string, value: number, put: (v: number) => void) => (
    <NumberInput
      label={label}
      value={Number(shownNumber(value))}
      suffix={spec.unit ? ` ${spec.unit}` : ""}
      min={spec.min}
      max={spec.max}
      clampBehavior="blur"
      onChange={(v) => typeof v === "number" && put(Math.min(spec.max, Math.max(spec.min, v)))}
    />
  );
  return (
    <div className="pair">
      {field(`${spec.label} at the low end`, low, (v) => set(v, high))}
      {field(`${spec.label} at the high end`, high, (v) => set(low, v))}
    </div>
  );
}

function Make({ spec, value, target, close }: Props & { close: () => void }) {
  const dials = useStore((s) => s.project?.document.dials ?? []);
  const number = typeof value === "number";
  const fitting = dials.filter((d) => (typeof d.value === "number") === number);
  const [choice, setChoice] = useState<string>(NEW);
  const [label, setLabel] = useState(spec.label);
  const [group, setGroup] = useState("");
  const [[low, high], setEnds] = useState<[number, number]>([spec.min, spec.max]);
  const fresh = choice === NEW;
  const make = () => {
    close();
    if (!fresh) {
      const param: DialDrive = number ? { dial: choice, low, high } : { dial: choice };
      void commit(setParam(target, param));
      return;
    }
    // A new dial shows the setting's own range and starts where the setting stands.
    const dial: Dial = {
      id: "", label: label.trim(), group: group.trim(), unit: number ? spec.unit : "", min: number ? spec.min : 0, max: number ? spec.max : 1, default: value, value,
    };
    void commit({ edit: "make_dial", target, dial, low: number ? spec.min : null, high: number ? spec.max : null });
  };
  return (
    <form className="drive-box" onSubmit={(e) => { e.preventDefault(); make(); }}>
      {fitting.length > 0 && (
        <Select
          label="Driven by"
          data={[{ value: NEW, label: "a new dial" }, ...fitting.map((d) => ({ value: d.id, label: d.label }))]}
          value={choice}
          onChange={(v) => setChoice(v ?? NEW)}
          comboboxProps={{ withinPortal: false }}
        />
      )}
      {fresh ? (
        <>
          <TextInput label="Name of the dial" value={label} onChange={(e) => setLabel(e.currentTarget.value)} data-autofocus />
          <TextInput label="Group (may be empty)" value={group} onChange={(e) => setGroup(e.currentTarget.value)} />
        </>
      ) : (
        number && <Ends spec={spec} low={low} high={high} set={(l, h) => setEnds([l, h])} />
      )}
      <Button type="submit" disabled={fresh && label.trim() === ""}>{fresh ? "Make the dial" : "Drive it"}</Button>
    </form>
  );
}

function Driven({ spec, value, target, driven, close }: Props & { driven: DialDrive; close: () => void }) {
  const dial = useStore((s) => s.project?.document.dials.find((d) => d.id === driven.dial));
  const [[low, high], setEnds] = useState<[number, number]>([driven.low ?? spec.min, driven.high ?? spec.max]);
  const number = typeof value === "number";
  return (
    <div className="drive-box">
      <span>Driven by the dial <b>{dial?.label ?? "that is gone"}</b>.</span>
      {number && <Ends spec={spec} low={low} high={high} set={(l, h) => setEnds([l, h])} />}
      {number && (
        <Button onClick={() => { close(); void commit(setParam(target, { dial: driven.dial, low, high })); }}>Keep these ends</Button>
      )}
      <Button variant="default" onClick={() => { close(); void commit(setParam(target, value)); }}>Release it, keep its value</Button>
    </div>
  );
}
