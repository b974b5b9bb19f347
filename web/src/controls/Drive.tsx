// The small drive button of a setting: turns it into a dial, lets an existing dial or a mask drive it, or releases it.
import { Button, NumberInput, Popover, SegmentedControl, Select, TextInput, Tooltip } from "@mantine/core";
import { useState } from "react";

import type { Dial, DialDrive, Param, ParamSpec, Target, Value } from "../api/types";
import { commit } from "../state/actions";
import { setParam, shownNumber } from "../state/document";
import { useStore } from "../state/store";
import { PicturePick } from "./PicturePick";
import { sourcesIn } from "./sourcesIn";

interface Props {
  spec: ParamSpec;
  value: Value;
  target: Target;
  driven: DialDrive | null;
  /** It differs from place to place. */
  elsewhere: boolean;
}

export function Drive(props: Props) {
  const [opened, setOpened] = useState(false);
  const { spec, driven, elsewhere } = props;
  const others = ways(props)
    .map((w) => ` or ${w.words}`)
    .join("");
  const title = driven
    ? `Dial that drives ${spec.label}`
    : elsewhere
      ? `${spec.label} varies with a mask`
      : `Drive ${spec.label} by a dial${others}`;
  return (
    <Popover opened={opened} onChange={setOpened} position="left-start" width={264} withinPortal trapFocus>
      <Popover.Target>
        <Tooltip label={title}>
          <button
            className={driven || elsewhere ? "drive on" : "drive"}
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

interface Way {
  value: "mask" | "ramp" | "picture";
  label: string;
  words: string;
}

/** Besides by a dial, how a setting may be driven; the masks that drive others are not driven by masks themselves. */
function ways({ spec, target }: Props): Way[] {
  if (target.inner !== undefined) return [];
  return [
    ...(spec.varies ? [{ value: "mask" as const, label: "By a mask", words: "a mask" }] : []),
    ...(spec.ramps ? [{ value: "ramp" as const, label: "On a ramp", words: "a ramp" }] : []),
    ...(spec.ramps && spec.type === "color"
      ? [{ value: "picture" as const, label: "A picture", words: "a picture" }]
      : []),
  ];
}

function Inside(props: Props & { close: () => void }) {
  const { spec, driven, elsewhere, target, value, close } = props;
  const [by, setBy] = useState("dial");
  if (driven) return <Driven {...props} driven={driven} />;
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
  const others = ways(props);
  return (
    <>
      {others.length > 0 && (
        <SegmentedControl
          fullWidth
          mb={8}
          data={[{ value: "dial", label: "By a dial" }, ...others]}
          value={by}
          onChange={setBy}
        />
      )}
      {by === "picture" ? (
        <FromPicture {...props} />
      ) : by === "dial" ? (
        <Make {...props} />
      ) : (
        <Vary {...props} ramp={by === "ramp"} />
      )}
    </>
  );
}

/** Lets a setting differ from place to place. It begins at what it stands at. */
function Vary({ spec, value, target, ramp, close }: Props & { ramp: boolean; close: () => void }) {
  const catalog = useStore((s) => s.catalog);
  const [kind, setKind] = useState<string | null>(null);
  const now = Number(value);
  const [[low, high], setEnds] = useState<[number, number]>([
    now,
    now === spec.max ? spec.min : Math.min(spec.max, now > 0 && spec.log ? now * 3 : spec.max),
  ]);
  const vary = () => {
    if (kind === null) return;
    close();
    const mask = { kind, settings: {} };
    const far: Value = typeof value === "number" ? high : value === "#ffffff" ? "#000000" : "#ffffff";
    const param: Param = ramp
      ? {
          along: mask,
          stops: [
            { at: 0, value },
            { at: 1, value: far },
          ],
          between: "linear",
          repeat: 1,
        }
      : { mask, low, high };
    void commit(setParam(target, param));
  };
  return (
    <form
      className="drive-box"
      onSubmit={(e) => {
        e.preventDefault();
        vary();
      }}
    >
      <Select
        label={`${spec.label} varies with`}
        placeholder="a reading, a pattern, a mask"
        searchable
        data-autofocus
        data={sourcesIn(catalog, target)}
        value={kind}
        onChange={setKind}
        comboboxProps={{ withinPortal: false }}
        maxDropdownHeight={200}
      />
      {!ramp && (
        <Ends
          spec={spec}
          ends={["where it is 0", "where it is 1"]}
          low={low}
          high={high}
          set={(l, h) => setEnds([l, h])}
        />
      )}
      <Button type="submit" disabled={kind === null}>
        {ramp ? "Lay a ramp" : "Let it vary"}
      </Button>
    </form>
  );
}

/** Lets a picture say the colour. */
function FromPicture({ spec, target, close }: Props & { close: () => void }) {
  const [picture, setPicture] = useState("");
  const lay = () => {
    close();
    void commit(setParam(target, { colors: { kind: "colors", settings: { picture } } }));
  };
  return (
    <form
      className="drive-box"
      onSubmit={(e) => {
        e.preventDefault();
        lay();
      }}
    >
      <div className="row">
        <span>Picture</span>
        <PicturePick inside label={`Picture for ${spec.label}`} value={picture} keep={setPicture} />
      </div>
      <Button type="submit" disabled={picture === ""}>
        Lay the picture
      </Button>
    </form>
  );
}

const NEW = "new";

const OF_DIAL: readonly [string, string] = ["at the low end", "at the high end"];

/** What the setting is at the two ends of what drives it. */
function Ends({
  spec,
  ends = OF_DIAL,
  low,
  high,
  set,
}: {
  spec: ParamSpec;
  ends?: readonly [string, string];
  low: number;
  high: number;
  set: (low: number, high: number) => void;
}) {
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
      {field(`${spec.label} ${ends[0]}`, low, (v) => set(v, high))}
      {field(`${spec.label} ${ends[1]}`, high, (v) => set(low, v))}
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
      id: "",
      label: label.trim(),
      group: group.trim(),
      unit: number ? spec.unit : "",
      min: number ? spec.min : 0,
      max: number ? spec.max : 1,
      default: value,
      value,
    };
    void commit({ edit: "make_dial", target, dial, low: number ? spec.min : null, high: number ? spec.max : null });
  };
  return (
    <form
      className="drive-box"
      onSubmit={(e) => {
        e.preventDefault();
        make();
      }}
    >
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
          <TextInput
            label="Name of the dial"
            value={label}
            onChange={(e) => setLabel(e.currentTarget.value)}
            data-autofocus
          />
          <TextInput label="Group (may be empty)" value={group} onChange={(e) => setGroup(e.currentTarget.value)} />
        </>
      ) : (
        number && <Ends spec={spec} low={low} high={high} set={(l, h) => setEnds([l, h])} />
      )}
      <Button type="submit" disabled={fresh && label.trim() === ""}>
        {fresh ? "Make the dial" : "Drive it"}
      </Button>
    </form>
  );
}

function Driven({ spec, value, target, driven, close }: Props & { driven: DialDrive; close: () => void }) {
  const dial = useStore((s) => s.project?.document.dials.find((d) => d.id === driven.dial));
  const [[low, high], setEnds] = useState<[number, number]>([driven.low ?? spec.min, driven.high ?? spec.max]);
  const number = typeof value === "number";
  return (
    <div className="drive-box">
      <span>
        Driven by the dial <b>{dial?.label ?? "that is gone"}</b>.
      </span>
      {number && <Ends spec={spec} low={low} high={high} set={(l, h) => setEnds([l, h])} />}
      {number && (
        <Button
          onClick={() => {
            close();
            void commit(setParam(target, { dial: driven.dial, low, high }));
          }}
        >
          Keep these ends
        </Button>
      )}
      <Button
        variant="default"
        onClick={() => {
          close();
          void commit(setParam(target, value));
        }}
      >
        Release it, keep its value
      </Button>
    </div>
  );
}
