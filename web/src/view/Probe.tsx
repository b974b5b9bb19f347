// The probe: a core sample through the coats at a spot, top coat first, down to the bare piece. It stands in the half of the view in which the spot is not.
import { ActionIcon } from "@mantine/core";
import { IconX } from "@tabler/icons-react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect } from "react";

import { api } from "../api/client";
import type { ProbedLayer, ProbedValue, ProbeView } from "../api/types";
import { select, turnProbe } from "../state/actions";
import { percent, shownNumber } from "../state/document";
import { busy, useStore } from "../state/store";

export function Probe() {
  const probing = useStore((s) => s.probing && s.room === "build");
  const spot = useStore((s) => s.spot);
  const id = useStore((s) => s.project?.id ?? 0);
  const revision = useStore((s) => s.project?.revision ?? 0);
  const sample = useQuery({
    queryKey: ["probe", id, revision, spot],
    queryFn: () => api.probe(id, { u: spot?.u ?? 0, v: spot?.v ?? 0 }),
    enabled: probing && spot !== null,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const fetching = sample.isFetching;
  useEffect(() => (fetching ? busy() : undefined), [fetching]);
  if (!probing) return null;
  return (
    <aside className={spot?.left ? "probe right" : "probe"} aria-label="Core sample">
      <div className="probe-head">
        <b>
          {spot === null
            ? "Click a spot on the piece"
            : sample.data
              ? `${sample.data.part}, shell ${sample.data.shell + 1}`
              : "Looking …"}
        </b>
        <ActionIcon size={20} aria-label="Put the probe down" onClick={turnProbe}>
          <IconX size={14} />
        </ActionIcon>
      </div>
      {spot === null && (
        <p className="soft">What every layer and step did there is told here, from the top coat down.</p>
      )}
      {sample.isError && <p className="warn">{sample.error.message}</p>}
      {spot !== null && sample.data && !sample.isError && <Core sample={sample.data} />}
    </aside>
  );
}

function Core({ sample }: { sample: ProbeView }) {
  const color = sample.bare.find((v) => v.channel === "base_color")?.color ?? "#808080";
  return (
    <>
      <p className="soft mono">{sample.place.map((v) => v.toFixed(1)).join("  ")} mm</p>
      {[...sample.layers].reverse().map((l) => (
        <Slice key={l.layer} layer={l} />
      ))}
      <div className="slice">
        <i style={{ background: color }} />
        <span className="soft">Bare piece</span>
      </div>
      {sample.coarse.length > 0 && (
        <p className="soft">What hidden layers read is measured coarsely: {sample.coarse.join(", ").toLowerCase()}.</p>
      )}
    </>
  );
}

/** One layer of the core sample. What is inside a recipe belongs to the layer that uses it. */
function Slice({ layer }: { layer: ProbedLayer }) {
  const own = layer.layer.split("/")[0] ?? layer.layer;
  const color = layer.after.find((v) => v.channel === "base_color")?.color;
  const inside = own !== layer.layer;
  return (
    <div
      className={layer.weight > 0 ? "slice" : "slice none"}
      style={{ marginLeft: layer.depth * 8 }}
      data-probed={layer.name}
    >
      <i style={color ? { background: color } : {}} />
      <div>
        <button className="slice-name" onClick={() => select(own)}>
          <b>{layer.name}</b>
          <span className="mono">{layer.shown ? percent(layer.visible) : "hidden"}</span>
        </button>
        {layer.steps.length > 0 && (
          <ol>
            {layer.steps.map((s) => (
              <li key={s.step}>
                <button onClick={() => (inside ? select(own) : select(own, s.step))}>
                  <span>{s.label}</span>
                  <span className="mono">{s.mask.toFixed(3)}</span>
                </button>
              </li>
            ))}
          </ol>
        )}
        {layer.weight > 0 && layer.after.length > 0 && <p className="soft">{layer.after.map(words).join(" · ")}</p>}
      </div>
    </div>
  );
}

const words = (v: ProbedValue) =>
  `${v.label} ${v.color ?? `${shownNumber(v.value[0] ?? 0)}${v.unit === "" ? "" : ` ${v.unit}`}`}`;
