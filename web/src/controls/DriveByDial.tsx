// A dial that drives a setting: a new one, one that is there, or letting go of it.
import { Button, Select, TextInput } from "@mantine/core";
import { useState } from "react";

import type { DialDrive, Way } from "../api/types";
import { commit } from "../state/actions";
import { setParam } from "../state/document";
import { useStore } from "../state/store";
import type { DriveProps } from "./Drive";
import { Ends } from "./Ends";

const NEW = "new";

const WAYS: { value: Way; label: string }[] = [
  { value: "even", label: "evenly" },
  { value: "ratios", label: "in even ratios" },
  { value: "smooth", label: "slowly at both ends" },
  { value: "stepped", label: "in five steps" },
];

export function Make({ spec, value, target, close }: DriveProps & { close: () => void }) {
  const dials = useStore((s) => s.project?.document.dials ?? NO_DIALS);
  const sets = useStore((s) => s.project?.sets);
  const number = typeof value === "number";
  const there = dials.filter((d) => sets?.[d.id]?.includes(spec.type));
  const [choice, setChoice] = useState<string>(NEW);
  const [label, setLabel] = useState(spec.label);
  const [group, setGroup] = useState("");
  const [[low, high], setEnds] = useState<[number, number]>([spec.min, spec.max]);
  const [way, setWay] = useState<Way>("even");
  const fresh = choice === NEW;
  const make = () => {
    close();
    if (!fresh) {
      const drive: DialDrive = number ? { dial: choice, low, high, way } : { dial: choice };
      void commit(setParam(target, drive));
      return;
    }
    void commit({ edit: "make_dial", target, label: label.trim(), group: group.trim() });
  };
  return (
    <form
      className="drive-box"
      onSubmit={(e) => {
        e.preventDefault();
        make();
      }}
    >
      {there.length > 0 && (
        <Select
          label="Driven by"
          data={[{ value: NEW, label: "a new dial" }, ...there.map((d) => ({ value: d.id, label: d.label }))]}
          value={choice}
          onChange={(v) => setChoice(v ?? NEW)}
          comboboxProps={{ withinPortal: false }}
        />
      )}
      {fresh ? (
        <>
          <TextInput
            label="Name of the dial"
            value={label}
            onChange={(e) => setLabel(e.currentTarget.value)}
            data-autofocus
          />
          <TextInput label="Group (may be empty)" value={group} onChange={(e) => setGroup(e.currentTarget.value)} />
        </>
      ) : (
        number && (
          <>
            <Ends spec={spec} low={low} high={high} set={(l, h) => setEnds([l, h])} />
            <WaySelect way={way} setWay={setWay} />
          </>
        )
      )}
      <Button type="submit" disabled={fresh && label.trim() === ""}>
        {fresh ? "Make the dial" : "Drive it"}
      </Button>
    </form>
  );
}

const NO_DIALS: never[] = [];

function WaySelect({ way, setWay }: { way: Way; setWay: (way: Way) => void }) {
  return (
    <Select
      label="From one to the other"
      data={WAYS}
      value={way}
      onChange={(v) => v !== null && setWay(v)}
      comboboxProps={{ withinPortal: false }}
    />
  );
}

export function Driven({ spec, value, target, driven, close }: DriveProps & { driven: DialDrive; close: () => void }) {
  const dial = useStore((s) => s.project?.document.dials.find((d) => d.id === driven.dial));
  const [[low, high], setEnds] = useState<[number, number]>([driven.low ?? spec.min, driven.high ?? spec.max]);
  const [way, setWay] = useState<Way>(driven.way ?? "even");
  const number = typeof value === "number";
  return (
    <div className="drive-box">
      <span>
        Driven by the dial <b>{dial?.label ?? "that is gone"}</b>.
      </span>
      {number && <Ends spec={spec} low={low} high={high} set={(l, h) => setEnds([l, h])} />}
      {number && <WaySelect way={way} setWay={setWay} />}
      {number && (
        <Button
          onClick={() => {
            close();
            void commit(setParam(target, { dial: driven.dial, low, high, way }));
          }}
        >
          Keep these ends
        </Button>
      )}
      <Release value={value} target={target} close={close} />
    </div>
  );
}

/** Lets go of what drives a setting, which stays where it stands. */
export function Release({ value, target, close }: Pick<DriveProps, "value" | "target"> & { close: () => void }) {
  return (
    <Button
      variant="default"
      onClick={() => {
        close();
        void commit(setParam(target, value));
      }}
    >
      Release it, keep its value
    </Button>
  );
}
