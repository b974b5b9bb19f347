// The dials of a recipe in use: turned for this use alone, or driven by the project's own.
import { memo } from "react";

import type { Dial, Layer, Param, Value } from "../../api/types";
import { Drive, Follows } from "../../controls/Drive";
import { byDrive, isDriven, isShown, specOf, standing } from "../../state/document";
import { useStore } from "../../state/store";
import { NewVersion } from "./NewVersion";
import { Presets } from "./Presets";
import { Turnable } from "./Turnable";

export type Use = Extract<Layer, { kind: "use" }>;

const NONE: never[] = [];

/** Drawn anew only when its use is: there may be dozens. */
export const RecipeDials = memo(function RecipeDials({ use }: { use: Use }) {
  const standings = useStore((s) => s.project?.standings ?? NONE);
  const target = (dial: Dial) => ({ layer: use.id, dial: dial.id, key: "value" });
  const value = (dial: Dial): Value => {
    const set = (use.values as Record<string, Param | undefined>)[dial.id];
    return isDriven(set) ? standing(specOf(dial), set, target(dial), standings) : (set ?? dial.value);
  };
  const stands = (id: string) => {
    const dial = use.recipe.dials.find((d) => d.id === id);
    return dial && value(dial);
  };
  // What follows a formula within the recipe is led from there.
  const turned = use.recipe.dials.filter((d) => d.formula === undefined && isShown(d, stands));
  return (
    <section className="block" data-use={use.name}>
      <h2 className="soft">
        {use.name}: from the recipe {use.recipe.name}
      </h2>
      <NewVersion use={use} />
      {use.recipe.dials.length > 0 && <Presets use={use} />}
      {turned.map((d) => {
        const drive = byDrive(use.values[d.id]);
        return (
          <Turnable
            key={d.id}
            dial={d}
            value={value(d)}
            edit={(v) => ({ edit: "turn_dial", layer: use.id, dial: d.id, value: v })}
            disabled={drive !== null}
            tools={<Drive spec={specOf(d)} value={value(d)} target={target(d)} drive={drive} elsewhere={false} />}
            {...(drive ? { note: <Follows spec={specOf(d)} drive={drive} target={target(d)} /> } : {})}
          />
        );
      })}
      {use.recipe.dials.length === 0 && <p className="soft">This recipe exposes no dials.</p>}
    </section>
  );
});
