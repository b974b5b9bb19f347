// Asks how long one unit of a mesh file is, since most formats don't say: each answer with the size that comes of it, beside a hand.
import { Button, Modal, Radio } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../api/client";
import type { SizeInUnit } from "../api/types";

interface Props {
  file: File;
  verb: string;
  close: () => void;
  start: (unit: string) => void;
}

export function AskUnit({ file, verb, close, start }: Props) {
  const [said, setUnit] = useState<string | null>(null);
  const sizes = useQuery({
    queryKey: ["sizes", file.name, file.size, file.lastModified],
    queryFn: () => api.sizes(file),
    retry: false,
  });
  const unit = said ?? sizes.data?.find((s) => s.likely)?.unit ?? null;
  return (
    <Modal opened onClose={close} title={`How large is ${file.name}?`} size="md">
      <p>Patterns and readings are in millimetres, so Dust Coat has to know what one unit of the file is.</p>
      {sizes.data && (
        <Radio.Group mt="sm" label="One unit of the file is one of these" value={unit} onChange={setUnit}>
          {sizes.data.map((s) => (
            <Radio key={s.unit} value={s.unit} className="unit" label={<Answer size={s} />} />
          ))}
        </Radio.Group>
      )}
      {sizes.isPending && <p className="soft">Measuring it…</p>}
      {sizes.isError && <p className="warn">{sizes.error.message}</p>}
      <Button mt="lg" data-autofocus disabled={unit === null} onClick={() => unit !== null && start(unit)}>
        {verb}
      </Button>
    </Modal>
  );
}

function Answer({ size: { label, size, likely } }: { size: SizeInUnit }) {
  return (
    <span className="unit-answer">
      <Beside width={Math.max(size[0], size[2])} height={size[1]} />
      <span>
        <b>{label}</b> {likely && <span className="soft">likely</span>}
        <br />
        <span className="num">{spoken(size)}</span>
      </span>
    </span>
  );
}

/** Lengths in mm, in the unit that such a thing is spoken of in. */
function spoken(size: number[]): string {
  const [by, unit] = Math.max(...size) >= 5000 ? [1000, "m"] : [1, "mm"];
  const one = (mm: number) => Number((mm / by).toPrecision(3)).toLocaleString("en");
  return `${size.map(one).join(" × ")} ${unit}`;
}

/** A hand is so long and so wide, in mm. */
const HAND = { height: 190, width: 95 };
/** The drawing, in px. */
const ROOM = { width: 96, height: 52 };

/** The front of the piece as a box beside a hand, both as large as they are to each other. */
function Beside({ width, height }: { width: number; height: number }) {
  const tall = Math.max(height, HAND.height);
  const wide = width + HAND.width * 1.4;
  const scale = Math.min(ROOM.height / tall, ROOM.width / wide);
  // What vanishes beside the other stays a speck.
  const least = 4;
  const [w, h] = [Math.max(width * scale, least), Math.max(height * scale, least)];
  const hand = Math.max(HAND.height * scale, least);
  return (
    <svg width={ROOM.width} height={ROOM.height} aria-hidden="true">
      <rect x={0} y={ROOM.height - h} width={w} height={h} className="unit-piece" />
      <g transform={`translate(${w + 0.3 * HAND.width * scale} ${ROOM.height - hand}) scale(${hand / 100})`}>
        <path
          className="unit-hand"
          d="M12 100V70C5 62 2 54 1 42c0-4 5-5 7-1l4 9V14c0-5 7-5 7 0v26h2V6c0-5 7-5 7 0v34h2V9c0-5 7-5 7 0v33h2V20c0-5 6-5 6 0v38c0 8-3 12-6 16v26z"
        />
      </g>
    </svg>
  );
}
