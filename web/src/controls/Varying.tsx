// A number that a mask drives: which mask, the number at its two ends, and the mask's own settings.
import { Select } from "@mantine/core";

import type { Entry, MaskDrive, Param, ParamSpec, Target } from "../api/types";
import { commit } from "../state/actions";
import { entryOf, setParam } from "../state/document";
import { useStore } from "../state/store";
import { Fold } from "./Fold";
import { NumberField, Setting } from "./Setting";

const FAMILIES = [["reading", "Readings"], ["pattern", "Patterns"], ["source", "Others"]] as const;

/** What can drive a number, for a list to choose from. */
export const sourcesIn = (catalog: Entry[]) =>
  FAMILIES.map(([family, group]) => ({ group, items: catalog.filter((e) => e.family === family).map((e) => ({ value: e.kind, label: e.label })) }));

export function Varying({ spec, drive, target }: { spec: ParamSpec; drive: MaskDrive; target: Target }) {
  const catalog = useStore((s) => s.catalog);
  const entry = entryOf(catalog, drive.mask.kind);
  const put = (change: Partial<MaskDrive>) => void commit(setParam(target, { ...drive, ...change }));
  return (
    <div className="varying" data-varying={spec.key}>
      <div className="row">
        <span>varies with</span>
        <Select
          w={150}
          aria-label={`Mask that drives ${spec.label}`}
          data={sourcesIn(catalog)}
          value={drive.mask.kind}
          comboboxProps={{ width: 200, position: "bottom-end" }}
          onChange={(kind) => kind !== null && put({ mask: { kind, settings: {} } })}
        />
      </div>
      <div className="row">
        <span>where it is 0</span>
        <NumberField spec={spec} label={`${spec.label} where the mask is 0`} value={drive.low} disabled={false} keep={(low) => put({ low })} />
      </div>
      <div className="row">
        <span>where it is 1</span>
        <NumberField spec={spec} label={`${spec.label} where the mask is 1`} value={drive.high} disabled={false} keep={(high) => put({ high })} />
      </div>
      {entry && <Inner entry={entry} settings={drive.mask.settings} target={target} />}
    </div>
  );
}

/** The mask's own settings: what is always seen, and the rest under one heading. */
function Inner({ entry, settings, target }: { entry: Entry; settings: MaskDrive["mask"]["settings"]; target: Target }) {
  const standingAt = (key: string): Param | undefined => settings[key] ?? entry.params.find((p) => p.key === key)?.default;
  const counting = entry.params.filter(({ when: [key, values] }) => key === "" || values.includes(String(standingAt(key))));
  const row = (spec: ParamSpec) => <Setting key={spec.key} spec={spec} param={settings[spec.key]} target={{ ...target, inner: spec.key }} />;
  const folded = counting.filter((s) => s.group !== "");
  return (
    <>
      {counting.filter((s) => s.group === "").map(row)}
      {folded.length > 0 && <Fold title={`Placement of ${entry.label}`} note="">{folded.map(row)}</Fold>}
    </>
  );
}
