// What differs from place to place: a number that a mask drives, or a number or colour that is read along a ramp; and the mask's own settings.
import { Select } from "@mantine/core";
import type { ReactNode } from "react";

import type { ColorsDrive, Entry, MaskDrive, MaskSource, ParamSpec, RampDrive, Target } from "../api/types";
import { commit } from "../state/actions";
import { effective, entryOf, setParam } from "../state/document";
import { useStore } from "../state/store";
import { Fold } from "./Fold";
import { sourcesIn } from "./sourcesIn";
import { RampBar } from "./RampBar";
import { Setting } from "./Setting";
import { NumberField } from "./NumberField";

export function Varying({ spec, drive, target }: { spec: ParamSpec; drive: MaskDrive; target: Target }) {
  const put = (change: Partial<MaskDrive>) => void commit(setParam(target, { ...drive, ...change }));
  return (
    <Driven spec={spec} source={drive.mask} target={target} take={(mask) => put({ mask })}>
      <div className="row">
        <span>where it is 0</span>
        <NumberField
          spec={spec}
          label={`${spec.label} where the mask is 0`}
          value={drive.low}
          disabled={false}
          keep={(low) => put({ low })}
        />
      </div>
      <div className="row">
        <span>where it is 1</span>
        <NumberField
          spec={spec}
          label={`${spec.label} where the mask is 1`}
          value={drive.high}
          disabled={false}
          keep={(high) => put({ high })}
        />
      </div>
    </Driven>
  );
}

export function Ramped({ spec, drive, target }: { spec: ParamSpec; drive: RampDrive; target: Target }) {
  return (
    <Driven
      spec={spec}
      source={drive.along}
      target={target}
      take={(along) => void commit(setParam(target, { ...drive, along }))}
    >
      <RampBar spec={spec} drive={drive} target={target} />
    </Driven>
  );
}

/** A colour that a picture says. */
export function Colored({ spec, drive, target }: { spec: ParamSpec; drive: ColorsDrive; target: Target }) {
  const entry = useStore((s) => entryOf(s.catalog, drive.colors.kind));
  return (
    <div className="varying" data-varying={spec.key}>
      {entry && <Inner entry={entry} settings={drive.colors.settings} target={target} />}
    </div>
  );
}

interface DrivenProps {
  spec: ParamSpec;
  source: MaskSource;
  target: Target;
  take: (source: MaskSource) => void;
  children: ReactNode;
}

function Driven({ spec, source, target, take, children }: DrivenProps) {
  const catalog = useStore((s) => s.catalog);
  const entry = entryOf(catalog, source.kind);
  return (
    <div className="varying" data-varying={spec.key}>
      <div className="row">
        <span>varies with</span>
        <Select
          w={150}
          aria-label={`Mask that drives ${spec.label}`}
          data={sourcesIn(catalog, target)}
          value={source.kind}
          comboboxProps={{ width: 200, position: "bottom-end" }}
          onChange={(kind) => kind !== null && take({ kind, settings: {} })}
        />
      </div>
      {children}
      {entry && <Inner entry={entry} settings={source.settings} target={target} />}
    </div>
  );
}

/** The mask's own settings: what is always seen, and the rest under one heading. */
function Inner({ entry, settings, target }: { entry: Entry; settings: MaskSource["settings"]; target: Target }) {
  const counting = effective(entry.params, (spec) => settings[spec.key] ?? spec.default);
  const row = (spec: ParamSpec) => (
    <Setting key={spec.key} spec={spec} param={settings[spec.key]} target={{ ...target, inner: spec.key }} />
  );
  const folded = counting.filter((s) => s.group !== "");
  return (
    <>
      {counting.filter((s) => s.group === "").map(row)}
      {folded.length > 0 && (
        <Fold title={`Placement of ${entry.label}`} note="">
          {folded.map(row)}
        </Fold>
      )}
    </>
  );
}
