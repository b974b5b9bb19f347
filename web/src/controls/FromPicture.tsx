// Colours taken from a picture that was brought in: one where it is clicked, several along a line drawn on it, or the few that stand for all of it.
import { Button, Group, Modal, NumberInput, Select } from "@mantine/core";
import { type PointerEvent, useEffect, useRef, useState } from "react";

import { BringFiles } from "./BringFiles";
import { PICTURE_FILES } from "../api/bundle";
import { api } from "../api/client";
import type { ProjectView, Swatch } from "../api/types";
import { bring, say } from "../state/actions";
import { busy, useStore } from "../state/store";
import { KeepPalette, Swatches } from "./Palettes";

interface Props {
  label: string;
  /** How many colours are taken along a line; 1 takes the one that is clicked. */
  count: number;
  /** `whole` if they stand for all of the picture, and their weights for how much of it. */
  take: (colors: Swatch[], whole: boolean) => void;
  close: () => void;
}

type Point = [number, number];

export function FromPicture({ label, count, take, close }: Props) {
  const project = useStore((s) => s.project);
  const pictures = picturesOf(project);
  const [hash, setHash] = useState<string | null>(pictures[0]?.hash ?? null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [line, setLine] = useState<[Point, Point] | null>(null);
  const [colors, setColors] = useState<Swatch[]>([]);
  const [many, setMany] = useState(6);
  const [ready, setReady] = useState(false);
  useEffect(() => {
    if (hash === null || !project) return;
    const image = new Image();
    image.onload = () => {
      const there = canvas.current;
      if (!there) return;
      there.width = image.naturalWidth;
      there.height = image.naturalHeight;
      there.getContext("2d", { willReadFrequently: true })?.drawImage(image, 0, 0);
      setReady(true);
    };
    image.src = api.broughtPicture(project.id, hash);
  }, [hash, project]);
  const bringOne = async (file: File) => {
    const after = await bring((p) => api.bringPicture(p.id, p.revision, file, "mask"));
    setHash(after?.document.intake.pictures.at(-1)?.hash ?? null);
  };
  const at = (e: PointerEvent): Point => {
    const box = e.currentTarget.getBoundingClientRect();
    return [(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height];
  };
  const draw = (next: [Point, Point]) => {
    setLine(next);
    setColors(sampled(canvas.current, next, count).map((color) => ({ color, weight: 1 })));
  };
  const find = async () => {
    if (hash === null || !project) return;
    const done = busy();
    try {
      setLine(null);
      setColors(await api.pictureColors(project.id, hash, many));
    } catch (error) {
      say(error);
    } finally {
      done();
    }
  };
  const done = (taken: Swatch[]) => {
    close();
    take(taken, line === null);
  };
  return (
    <Modal
      opened
      onClose={close}
      title={count === 1 ? `${label}: click the picture` : `${label}: draw a line on the picture`}
      size={620}
      yOffset={50}
    >
      <Group mb="sm" gap={6}>
        <Select
          w={260}
          aria-label="Picture to take from"
          placeholder="no picture yet"
          data={pictures.map((p) => ({ value: p.hash, label: p.file }))}
          value={hash}
          onChange={(v) => {
            setHash(v);
            setReady(false);
            setLine(null);
            setColors([]);
          }}
          comboboxProps={{ withinPortal: false }}
        />
        <BringFiles
          label="Picture to take colours from"
          accept={PICTURE_FILES}
          take={([file]) => file && void bringOne(file)}
        >
          {(props) => (
            <Button variant="default" {...props}>
              Bring one in
            </Button>
          )}
        </BringFiles>
      </Group>
      {hash === null ? (
        <p className="soft">
          Bring in a photograph or a picture of a palette; its colours are taken where you click or along a line.
        </p>
      ) : (
        <div className="from-picture" data-ready={ready}>
          <canvas
            ref={canvas}
            aria-label="Picture"
            onPointerDown={(e) => {
              e.currentTarget.setPointerCapture(e.pointerId);
              draw([at(e), at(e)]);
            }}
            onPointerMove={(e) => {
              if (line && e.currentTarget.hasPointerCapture(e.pointerId)) draw([count === 1 ? at(e) : line[0], at(e)]);
            }}
          />
          {line && count > 1 && (
            <svg viewBox="0 0 1 1" preserveAspectRatio="none">
              <line x1={line[0][0]} y1={line[0][1]} x2={line[1][0]} y2={line[1][1]} />
            </svg>
          )}
        </div>
      )}
      {hash !== null && (
        <div className="row" style={{ marginTop: 10 }}>
          <span className="soft" style={{ flex: 1 }}>
            Or the few colours that stand for the whole picture:
          </span>
          <NumberInput
            w={64}
            aria-label="How many colours"
            min={2}
            max={16}
            value={many}
            onChange={(v) => typeof v === "number" && v >= 2 && v <= 16 && setMany(Math.round(v))}
          />
          <Button variant="default" onClick={() => void find()}>
            Find them
          </Button>
        </div>
      )}
      {colors.length > 0 && (
        <div className="palette-now" data-testid="found">
          <div className="row">
            <Swatches
              colors={colors}
              {...(count === 1 ? { take: (color: string) => done([{ color, weight: 1 }]) } : {})}
            />
            {count === 1 && colors.length > 1 ? (
              <span className="soft">Click the one to take.</span>
            ) : (
              <Button onClick={() => done(colors)}>
                {count === 1 ? "Take this colour" : `Take these ${colors.length} colours`}
              </Button>
            )}
          </div>
          {colors.length > 1 && <KeepPalette colors={colors} />}
        </div>
      )}
    </Modal>
  );
}

/** Those that serve the piece, and those on the board, each once. */
function picturesOf(project: ProjectView | null): { hash: string; file: string }[] {
  const board = (project?.document.study?.board ?? []).flatMap((i) =>
    i.kind === "picture" ? [{ hash: i.hash, file: i.text || i.file }] : [],
  );
  const all = [...board, ...(project?.document.intake.pictures ?? [])];
  return all.filter((p, i) => all.findIndex((o) => o.hash === p.hash) === i);
}

/** Colours along a line, evenly from end to end, each the mean of the few texels around; where it runs over what is cut away, the last one before. */
function sampled(canvas: HTMLCanvasElement | null, [from, to]: [Point, Point], count: number): string[] {
  const context = canvas?.getContext("2d", { willReadFrequently: true });
  if (!canvas || !context || canvas.width === 0) return [];
  const all = Array.from({ length: count }, (_, k) => {
    const t = count === 1 ? 1 : k / (count - 1);
    const place = (axis: 0 | 1, size: number) =>
      Math.min(size - 3, Math.max(0, Math.round((from[axis] + (to[axis] - from[axis]) * t) * size) - 1));
    const { data } = context.getImageData(place(0, canvas.width), place(1, canvas.height), 3, 3);
    const there = Array.from({ length: 9 }, (_, i) => 4 * i).filter((i) => (data[i + 3] ?? 0) > 0);
    const weight = there.reduce((a, i) => a + (data[i + 3] ?? 0), 0);
    const mean = (c: number) =>
      Math.round(there.reduce((a, i) => a + (data[i + c] ?? 0) * (data[i + 3] ?? 0), 0) / weight);
    return weight > 0 ? `#${[0, 1, 2].map((c) => mean(c).toString(16).padStart(2, "0")).join("")}` : null;
  });
  let last = all.find((c) => c !== null) ?? null;
  return all.flatMap((c) => ((last = c ?? last) === null ? [] : [last]));
}
