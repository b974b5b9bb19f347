// Lets a setting differ from place to place: along a mask, on a ramp, or from a picture.
import { Button, SegmentedControl, Select } from "@mantine/core";
import { useState } from "react";
import { useShallow } from "zustand/react/shallow";

import type { Param, Target, Value } from "../api/types";
import { commit } from "../state/actions";
import { findLayer, setParam } from "../state/document";
import { type State, useStore } from "../state/store";
import type { DriveProps } from "./Drive";
import { Ends } from "./Ends";
import { PicturePick } from "./PicturePick";
import { sourcesIn } from "./sourcesIn";

/** Lets a setting differ from place to place. It begins at what it stands at. */
export function Vary({ spec, value, target, ramp, close }: DriveProps & { ramp: boolean; close: () => void }) {
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

/** Lets a picture say the colour: laid over the piece, or as the pins of the layer lie. */
export function FromPicture({ spec, target, close }: DriveProps & { close: () => void }) {
  const ways = useStore(useShallow((s) => s.catalog.filter((e) => e.family === "colors")));
  const pins = useStore((s) => hasPins(s, target));
  const [kind, setKind] = useState(pins ? "pinned_colors" : "colors");
  const [picture, setPicture] = useState("");
  const own = kind === "pinned_colors";
  const lay = () => {
    close();
    void commit(setParam(target, { colors: { kind, settings: picture === "" ? {} : { picture } } }));
  };
  return (
    <form
      className="drive-box"
      onSubmit={(e) => {
        e.preventDefault();
        lay();
      }}
    >
      {pins && (
        <SegmentedControl
          aria-label="How the picture lies"
          value={kind}
          onChange={setKind}
          data={ways.map((e) => ({ value: e.kind, label: e.label }))}
        />
      )}
      <div className="row">
        <span>{own ? "Another picture" : "Picture"}</span>
        <PicturePick inside label={`Picture for ${spec.label}`} value={picture} keep={setPicture} />
      </div>
      {own && picture === "" && <p className="soft">Without one it is the pin’s own.</p>}
      <Button type="submit" disabled={picture === "" && !own}>
        Lay the picture
      </Button>
    </form>
  );
}

/** Whether the mask line of the setting's layer lays a pin. */
const hasPins = ({ project }: State, { layer }: Target): boolean =>
  findLayer(project?.document.layers ?? [], layer ?? "")?.mask.steps.some((s) => s.kind === "pin") ?? false;
