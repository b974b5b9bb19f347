// A picture of the board beside the piece, or half see-through over it, with an exposure of its own. A spot that is clicked in it says its colour, and against a known grey its brightness.
import { ActionIcon, Button, NumberInput, Select, Slider, Switch, Tooltip } from "@mantine/core";
import { IconX } from "@tabler/icons-react";
import { type PointerEvent, useState } from "react";

import { api } from "../api/client";
import type { ToneView } from "../api/types";
import { follow } from "../controls/follow";
import { commit, say } from "../state/actions";
import { percent } from "../state/document";
import { busy, type Reference as Standing, useStore } from "../state/store";

const set = (change: Partial<Standing>) =>
  useStore.setState((s) => (s.reference ? { reference: { ...s.reference, ...change } } : {}));

/** The picture that stands there, if it still lies on the board. */
function useStanding() {
  const reference = useStore((s) => s.reference);
  const board = useStore((s) => s.project?.document.study?.board);
  const item = board?.find((i) => i.id === reference?.item);
  return reference && item?.kind === "picture" ? { reference, picture: item } : null;
}

export function Reference() {
  const standing = useStanding();
  // Another picture has other spots.
  return standing && <Beside key={standing.picture.hash} {...standing} />;
}

function Beside({ reference, picture }: NonNullable<ReturnType<typeof useStanding>>) {
  const project = useStore((s) => s.project?.id ?? 0);
  const board = useStore((s) => s.project?.document.study?.board);
  const [spot, setSpot] = useState<{ at: [number, number]; says: ToneView } | null>(null);
  const [grey, setGrey] = useState<{ at: [number, number]; is: number } | null>(null);
  const [naming, setNaming] = useState(false);
  const ask = async (at: [number, number], against: typeof grey) => {
    const done = busy();
    try {
      const says = await api.tone(project, picture.hash, { at, ...(against ? { grey: against } : {}) });
      setSpot({ at, says });
      // A grey that has no colour is none.
      setGrey(against);
    } catch (error) {
      say(error);
    } finally {
      done();
    }
  };
  const [left, top, right, bottom] = picture.crop ?? [0, 0, 1, 1];
  const [w, h] = [right - left, bottom - top];
  const click = (e: PointerEvent<HTMLElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    const at: [number, number] = [
      left + ((e.clientX - box.left) / box.width) * w,
      top + ((e.clientY - box.top) / box.height) * h,
    ];
    if (naming) {
      const known = { at, is: grey?.is ?? 0.18 };
      setNaming(false);
      void ask(spot?.at ?? at, known);
    } else void ask(at, grey);
  };
  const name = picture.text || picture.file;
  const pictures = (board ?? []).flatMap((i) =>
    i.kind === "picture" ? [{ value: i.id, label: i.text || i.file }] : [],
  );
  const style = {
    left: `${reference.at[0] * 100}%`,
    top: `${reference.at[1] * 100}%`,
    width: `${reference.width * 100}%`,
  };
  return (
    <div className={`reference${reference.through ? " through" : ""}`} style={style} data-testid="reference">
      <div className="reference-head" onPointerDown={drag}>
        <Select
          size="xs"
          aria-label="Picture beside the piece"
          data={pictures}
          value={reference.item}
          allowDeselect={false}
          onPointerDown={(e) => e.stopPropagation()}
          onChange={(item) => item !== null && set({ item })}
        />
        <Tooltip label="Put the picture away">
          <ActionIcon
            size={20}
            aria-label="Put the picture away"
            onPointerDown={(e) => e.stopPropagation()}
            onClick={() => useStore.setState({ reference: null })}
          >
            <IconX size={14} />
          </ActionIcon>
        </Tooltip>
      </div>
      <Exposed stops={reference.exposure} />
      <div
        className="reference-picture"
        data-testid="reference-picture"
        style={{
          aspectRatio: `${w * picture.size[0]} / ${h * picture.size[1]}`,
          opacity: reference.seen,
          filter: reference.exposure === 0 ? undefined : "url(#reference-exposure)",
        }}
        onPointerDown={(e) => e.button === 0 && click(e)}
      >
        <img
          src={api.broughtPicture(project, picture.hash, 1024)}
          alt={name}
          draggable={false}
          style={{
            width: `${100 / w}%`,
            height: `${100 / h}%`,
            left: `${(-100 * left) / w}%`,
            top: `${(-100 * top) / h}%`,
          }}
        />
        {spot && <Mark at={spot.at} crop={[left, top, w, h]} kind="spot" />}
        {grey && <Mark at={grey.at} crop={[left, top, w, h]} kind="grey" />}
      </div>
      <span className="reference-corner" title="Size" onPointerDown={resize} />
      <div className="reference-foot">
        <Row label="Exposure" words={`${reference.exposure > 0 ? "+" : ""}${reference.exposure.toFixed(1)} stops`}>
          <Slider
            size={4}
            label={null}
            thumbLabel="Exposure of the picture"
            min={-4}
            max={4}
            step={0.1}
            value={reference.exposure}
            onChange={(exposure) => set({ exposure })}
          />
        </Row>
        <Row label="Seen" words={percent(reference.seen)}>
          <Slider
            size={4}
            label={null}
            thumbLabel="How much of the picture is seen"
            min={0.1}
            max={1}
            step={0.05}
            value={reference.seen}
            onChange={(seen) => set({ seen })}
          />
        </Row>
        <Switch
          size="xs"
          label="Over the piece"
          checked={reference.through}
          onChange={(e) =>
            set(
              e.currentTarget.checked
                ? { through: true, seen: 0.5, at: [0.15, 0.02], width: 0.7 }
                : { through: false, seen: 1, at: [0.03, 0.05], width: 0.32 },
            )
          }
        />
        {spot ? (
          <Says says={spot.says} />
        ) : (
          <p className="soft">
            {reference.through ? "The piece is turned through it." : "Click a spot to take its colour."}
          </p>
        )}
        {spot && (
          <div className="reference-grey">
            <Button
              size="compact-xs"
              variant={naming ? "filled" : "default"}
              aria-pressed={naming}
              onClick={() => setNaming(!naming)}
            >
              {naming ? "Click that grey" : grey ? "Another grey" : "Name a grey"}
            </Button>
            {grey && (
              <NumberInput
                className="plan-share"
                size="xs"
                hideControls
                suffix=" %"
                min={1}
                max={100}
                aria-label="What the grey gives back, in percent"
                value={Math.round(grey.is * 100)}
                onChange={(v) => {
                  const is = Number(v) / 100;
                  if (!(is >= 0.01 && is <= 1)) return;
                  void ask(spot.at, { ...grey, is });
                }}
              />
            )}
          </div>
        )}
      </div>
    </div>
  );
}

/** Exposure in linear light, as the view's. */
function Exposed({ stops }: { stops: number }) {
  const slope = 2 ** stops;
  return (
    <svg width={0} height={0} aria-hidden style={{ position: "absolute" }}>
      <filter id="reference-exposure" colorInterpolationFilters="linearRGB">
        <feComponentTransfer>
          <feFuncR type="linear" slope={slope} />
          <feFuncG type="linear" slope={slope} />
          <feFuncB type="linear" slope={slope} />
        </feComponentTransfer>
      </filter>
    </svg>
  );
}

function Says({ says }: { says: ToneView }) {
  const picking = useStore((s) => s.picking);
  const color = says.neutral ?? says.color;
  const plan = useStore((s) => s.project?.plan.fresh);
  return (
    <div className="reference-says" data-testid="spot">
      <i className="swatch" style={{ background: says.color }} />
      <span className="mono">{says.color}</span>
      <span className="soft">{percent(says.luminance)} of its white</span>
      {says.given_back !== null && says.neutral !== null && (
        <>
          <i className="swatch" style={{ background: says.neutral }} />
          <span className="mono">{says.neutral}</span>
          <span className="soft">gives back {percent(says.given_back)}</span>
        </>
      )}
      {picking ? (
        <Button
          size="compact-xs"
          onClick={() => {
            picking.take(color);
            useStore.setState({ picking: null });
          }}
        >
          Take it for “{picking.label}”
        </Button>
      ) : (
        <Button
          size="compact-xs"
          variant="default"
          onClick={() => plan && void commit({ edit: "set_element", element: { ...plan, color } })}
        >
          Plan an element of it
        </Button>
      )}
    </div>
  );
}

function Mark({ at, crop: [l, t, w, h], kind }: { at: [number, number]; crop: number[]; kind: string }) {
  const [x, y] = [(at[0] - (l ?? 0)) / (w ?? 1), (at[1] - (t ?? 0)) / (h ?? 1)];
  return <i className={`reference-mark ${kind}`} style={{ left: `${x * 100}%`, top: `${y * 100}%` }} />;
}

function Row({ label, words, children }: { label: string; words: string; children: React.ReactNode }) {
  return (
    <div>
      <label className="light-row">
        {label} <span className="mono">{words}</span>
      </label>
      {children}
    </div>
  );
}

/** The view's own width, which shares are of. */
const wide = (e: PointerEvent<HTMLElement>) => e.currentTarget.closest(".view")?.clientWidth ?? 1;
const tall = (e: PointerEvent<HTMLElement>) => e.currentTarget.closest(".view")?.clientHeight ?? 1;

function drag(e: PointerEvent<HTMLElement>) {
  const start = useStore.getState().reference;
  if (!start || e.button !== 0) return;
  const [w, h, x, y] = [wide(e), tall(e), e.clientX, e.clientY];
  const inside = (v: number) => Math.min(0.95, Math.max(-0.6, v));
  follow(e, (to) =>
    set({ at: [inside(start.at[0] + (to.clientX - x) / w), Math.max(0, inside(start.at[1] + (to.clientY - y) / h))] }),
  );
}

function resize(e: PointerEvent<HTMLElement>) {
  const start = useStore.getState().reference;
  if (!start) return;
  e.preventDefault();
  const [w, x] = [wide(e), e.clientX];
  follow(e, (to) => set({ width: Math.min(1.5, Math.max(0.15, start.width + (to.clientX - x) / w)) }));
}
