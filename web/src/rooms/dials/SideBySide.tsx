// Two to six variants side by side, seen by one camera that goes round the piece.
import { Button, Checkbox, Modal, Slider } from "@mantine/core";
import { useState } from "react";

import type { StillSettings } from "../../api/types";
import { Look } from "../../controls/Look";
import { asSeen } from "../../view/asSeen";

/** Pixels of a picture from top to bottom, and samples to each. */
const PICTURE = { height: 300, samples: 16 };
const MOST = 6;

export function SideBySide({ names }: { names: string[] }) {
  const [opened, setOpened] = useState(false);
  return (
    <>
      <Button variant="default" disabled={names.length < 2} onClick={() => setOpened(true)}>
        Side by side
      </Button>
      <Modal opened={opened} onClose={() => setOpened(false)} title="Variants side by side" size={1140} yOffset={40}>
        {opened && <Inside names={names} />}
      </Modal>
    </>
  );
}

function Inside({ names }: { names: string[] }) {
  const [chosen, setChosen] = useState(names.slice(0, MOST));
  const [turn, setTurn] = useState(0);
  const [kept, setKept] = useState(0);
  const [still] = useState(() => asSeen(PICTURE.height, PICTURE.samples));
  const shown = names.filter((n) => chosen.includes(n));
  return (
    <div className="beside-box">
      <div className="row" style={{ justifyContent: "flex-start", flexWrap: "wrap" }}>
        {names.map((name) => (
          <Checkbox
            key={name}
            label={name}
            checked={chosen.includes(name)}
            disabled={!chosen.includes(name) && chosen.length >= MOST}
            onChange={(e) =>
              setChosen(e.currentTarget.checked ? [...chosen, name] : chosen.filter((other) => other !== name))
            }
          />
        ))}
        <span className="soft" style={{ marginLeft: "auto" }}>
          Go round
        </span>
        <Slider
          style={{ width: 240 }}
          thumbLabel="Go round the piece"
          min={-180}
          max={180}
          step={15}
          value={turn}
          label={(v) => `${v}° round`}
          onChange={setTurn}
          onChangeEnd={setKept}
        />
      </div>
      <div
        className="beside-pictures"
        style={{ gridTemplateColumns: `repeat(${Math.min(3, Math.max(2, shown.length))}, 1fr)` }}
      >
        {shown.map((name) => (
          <figure key={name} data-beside={name}>
            <Look
              edits={[{ edit: "take_variant", name }]}
              still={still && goneRound(still, kept)}
              alt={`The piece as ${name}`}
            />
            <figcaption>{name}</figcaption>
          </figure>
        ))}
      </div>
    </div>
  );
}

/** The same from another side, at the same height and distance. */
function goneRound(still: StillSettings, degrees: number): StillSettings {
  const { eye, target } = still;
  if (!eye || degrees === 0) return still;
  const angle = (degrees * Math.PI) / 180;
  const [x, z] = [eye[0] - target[0], eye[2] - target[2]];
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  return { ...still, eye: [target[0] + x * cos + z * sin, eye[1], target[2] - x * sin + z * cos] };
}
