// Stills from where the view looks, with light that is traced.
import { Button, Popover, Select, Switch } from "@mantine/core";
import { useState } from "react";

import { api } from "../api/client";
import { asSeen } from "./asSeen";
import type { StillDone } from "../api/types";
import { say } from "../state/actions";
import { busy, useStore } from "../state/store";

const SIZES = ["256", "512", "1024", "2048"].map((value) => ({ value, label: `${value} px` }));
const SAMPLES = [
  { value: "16", label: "16, for a look" },
  { value: "64", label: "64" },
  { value: "256", label: "256, smooth" },
];
const TURNS = [
  { value: "1", label: "one still" },
  { value: "12", label: "turntable, 12 pictures" },
  { value: "36", label: "turntable, 36 pictures" },
];
const inside = { allowDeselect: false, comboboxProps: { withinPortal: false } };

export function Stills() {
  const id = useStore((s) => s.project?.id ?? 0);
  const revision = useStore((s) => s.project?.revision ?? 0);
  const [size, setSize] = useState("512");
  const [samples, setSamples] = useState("64");
  const [turns, setTurns] = useState("1");
  const [clear, setClear] = useState(false);
  const [denoise, setDenoise] = useState(true);
  const [taking, setTaking] = useState(false);
  const [done, setDone] = useState<{ still: StillDone; revision: number } | null>(null);
  const take = async () => {
    const seen = asSeen(Number(size), Number(samples));
    if (!seen) return;
    setTaking(true);
    const settle = busy();
    try {
      const surround = clear ? "clear" : seen.surround;
      const wished = { ...seen, surround, denoise, turntable: Number(turns) };
      setDone({ still: await api.takeStill(id, wished), revision });
    } catch (error) {
      say(error);
    } finally {
      setTaking(false);
      settle();
    }
  };
  return (
    <Popover position="right-end" width={252} withinPortal trapFocus>
      <Popover.Target>
        <Button variant="default">Still</Button>
      </Popover.Target>
      <Popover.Dropdown className="light-box" data-testid="stills">
        <p className="soft" style={{ margin: 0 }}>
          Taken from here, under this light, with every reflection and shadow traced.
        </p>
        <Select label="Height of the picture" data={SIZES} value={size} onChange={(v) => v && setSize(v)} {...inside} />
        <Select
          label="Samples a pixel"
          data={SAMPLES}
          value={samples}
          onChange={(v) => v && setSamples(v)}
          {...inside}
        />
        <Select label="Pictures" data={TURNS} value={turns} onChange={(v) => v && setTurns(v)} {...inside} />
        <Switch
          size="xs"
          label="Take noise out"
          checked={denoise}
          onChange={(e) => setDenoise(e.currentTarget.checked)}
        />
        <Switch
          size="xs"
          label="Nothing around the piece"
          checked={clear}
          onChange={(e) => setClear(e.currentTarget.checked)}
        />
        <Button loading={taking} onClick={() => void take()}>
          Take it
        </Button>
        {taking ? <SoFar /> : done && <Taken still={done.still} old={done.revision !== revision} />}
      </Popover.Dropdown>
    </Popover>
  );
}

/** What the still under way looks like so far: it gets smoother while one waits. */
function SoFar() {
  const id = useStore((s) => s.project?.id ?? 0);
  const jobs = useStore((s) => s.jobs);
  const still = Object.entries(jobs).findLast(([, job]) => job.kind === "still" && job.samples !== undefined);
  if (!still) return null;
  const [number, { samples }] = still;
  return (
    <>
      <img
        src={`/api/projects/${id}/jobs/${number}/picture?samples=${samples}`}
        alt="The still so far"
        style={{ width: "100%", borderRadius: 3 }}
      />
      <span className="soft">{samples} samples a pixel so far</span>
    </>
  );
}

function Taken({ still, old }: { still: StillDone; old: boolean }) {
  const address = `/api/downloads/${still.download}/${encodeURIComponent(still.name)}`;
  return (
    <>
      {still.name.endsWith(".png") && <img src={address} alt="The still" style={{ width: "100%", borderRadius: 3 }} />}
      <div className="row">
        <span className="snapshot-name">
          {still.seconds.toFixed(1)} s{old && <span className="warn">, before the last change</span>}
        </span>
        <Button component="a" variant="default" href={address} download={still.name}>
          Download
        </Button>
      </div>
    </>
  );
}
