// The small drive button of a setting: turns it into a dial, lets a dial, a formula or a mask drive it, or releases it.
import { Button, Popover, SegmentedControl, Tooltip } from "@mantine/core";
import { useState } from "react";

import type { Drive as Driving, ParamSpec, Target, Value } from "../api/types";
import { commit } from "../state/actions";
import { setParam, standingOf } from "../state/document";
import { useStore } from "../state/store";
import { Driven, Make, Release } from "./DriveByDial";
import { FromPicture, Vary } from "./DriveElsewhere";
import { FormulaField } from "./FormulaField";
import { spoken } from "./spoken";

export interface DriveProps {
  spec: ParamSpec;
  value: Value;
  target: Target;
  drive: Driving | null;
  /** It differs from place to place. */
  elsewhere: boolean;
}

export function Drive(props: DriveProps) {
  const [opened, setOpened] = useState(false);
  const { spec, drive, elsewhere } = props;
  const title = drive
    ? `What drives ${spec.label}`
    : elsewhere
      ? `${spec.label} varies with a mask`
      : `Drive ${spec.label} by ${listed(ways(props).map((w) => w.words))}`;
  return (
    <Popover opened={opened} onChange={setOpened} position="left-start" width={288} withinPortal trapFocus>
      <Popover.Target>
        <Tooltip label={title}>
          <button
            className={drive || elsewhere ? "drive on" : "drive"}
            aria-label={title}
            onClick={() => setOpened(!opened)}
          >
            ƒ
          </button>
        </Tooltip>
      </Popover.Target>
      <Popover.Dropdown aria-label={title}>
        {opened && <Inside {...props} close={() => setOpened(false)} />}
      </Popover.Dropdown>
    </Popover>
  );
}

/** What drives a setting, in a line below it. */
export function Follows({ spec, drive, target }: { spec: ParamSpec; drive: Driving; target: Target }) {
  const dials = useStore((s) => s.project?.document.dials);
  const standings = useStore((s) => s.project?.standings);
  if ("formula" in drive) {
    const standing = standingOf(target, standings ?? []);
    return (
      <span className="setting-driven">
        follows <span className="mono">{standing?.formula ?? drive.formula}</span>
        {standing?.bounded !== undefined && <span className="soft"> {standing.bounded}</span>}
      </span>
    );
  }
  const { low, high } = drive;
  return (
    <span className="setting-driven">
      driven by the dial {dials?.find((d) => d.id === drive.dial)?.label ?? "that is gone"}
      {low !== undefined && high !== undefined && `: ${spoken(spec, low)} to ${spoken(spec, high)}`}
    </span>
  );
}

interface Way {
  value: "dial" | "formula" | "mask" | "ramp" | "picture";
  label: string;
  words: string;
}

/** How a setting may be driven; the masks that drive others are not driven by masks themselves. */
function ways({ spec, target }: DriveProps): Way[] {
  const number = spec.type === "number" || spec.type === "integer";
  const inner = target.inner !== undefined;
  return [
    { value: "dial", label: "Dial", words: "a dial" },
    ...(number ? [{ value: "formula" as const, label: "Formula", words: "a formula" }] : []),
    ...(spec.varies && !inner ? [{ value: "mask" as const, label: "Mask", words: "a mask" }] : []),
    ...(spec.ramps && !inner ? [{ value: "ramp" as const, label: "Ramp", words: "a ramp" }] : []),
    ...(spec.ramps && !inner && spec.type === "color"
      ? [{ value: "picture" as const, label: "Picture", words: "a picture" }]
      : []),
  ];
}

const listed = (words: string[]) =>
  words.length < 2 ? words.join("") : `${words.slice(0, -1).join(", ")} or ${words.at(-1)}`;

function Inside(props: DriveProps & { close: () => void }) {
  const { spec, drive, elsewhere, target, value, close } = props;
  const [by, setBy] = useState("dial");
  if (drive && "formula" in drive) return <ByFormula {...props} />;
  if (drive) return <Driven {...props} driven={drive} />;
  if (elsewhere) {
    return (
      <div className="drive-box">
        <span>{spec.label} differs from place to place: it varies with a mask.</span>
        <Button
          variant="default"
          onClick={() => {
            close();
            void commit(setParam(target, value));
          }}
        >
          Make it even again
        </Button>
      </div>
    );
  }
  const all = ways(props);
  return (
    <>
      {all.length > 1 && <SegmentedControl fullWidth mb={8} data={all} value={by} onChange={setBy} />}
      {by === "picture" ? (
        <FromPicture {...props} />
      ) : by === "dial" ? (
        <Make {...props} />
      ) : by === "formula" ? (
        <ByFormula {...props} />
      ) : (
        <Vary {...props} ramp={by === "ramp"} />
      )}
    </>
  );
}

/** Lets a formula over dials set it. */
function ByFormula({ spec, value, target, drive, close }: DriveProps & { close: () => void }) {
  const standings = useStore((s) => s.project?.standings);
  const [text, setText] = useState(standingOf(target, standings ?? [])?.formula ?? "");
  const edit = (written: string) => ({ edit: "set_formula" as const, target, text: written });
  const keep = () => {
    if (text.trim() === "") return;
    void commit(edit(text)).then((kept) => kept && close());
  };
  return (
    <div className="drive-box">
      <FormulaField label={`${spec.label} follows`} spec={spec} text={text} setText={setText} edit={edit} done={keep} />
      <Button onClick={keep} disabled={text.trim() === ""}>
        Let it follow
      </Button>
      {drive && <Release value={value} target={target} close={close} />}
    </div>
  );
}
