// Snapshots, and the wipe between one of them and the present state.
import { ActionIcon, Button, Popover, Switch, Tooltip } from "@mantine/core";
import { IconArrowBackUp, IconTrash } from "@tabler/icons-react";
import { type KeyboardEvent, type PointerEvent, useState } from "react";

import type { SnapshotView, Variant } from "../api/types";
import { KeepAs } from "../controls/KeepAs";
import {
  compareWith,
  compareWithEdit,
  goBackTo,
  keepSnapshot,
  removeSnapshot,
  restoreSnapshot,
} from "../state/actions";
import { comparing, useStore } from "../state/store";

const NONE: SnapshotView[] = [];

export function Snapshots() {
  const snapshots = useStore((s) => s.project?.snapshots ?? NONE);
  const compare = useStore((s) => s.compare);
  const against = useStore(comparing);
  const [removed, setRemoved] = useState<SnapshotView | null>(null);
  return (
    <Popover position="top-start" width={280} withinPortal trapFocus>
      <Popover.Target>
        <Button variant={against === null ? "default" : "filled"}>Snapshots</Button>
      </Popover.Target>
      <Popover.Dropdown className="light-box">
        {snapshots.length === 0 && (
          <p className="soft" style={{ margin: "0 0 8px" }}>
            Keep the piece as it stands, to wipe against later and to go back to.
          </p>
        )}
        {snapshots.map((s) => (
          <div key={s.id} className="row" data-snapshot={s.name}>
            <span className="snapshot-name" title={s.name}>
              {s.name}
            </span>
            <Button
              variant={compare === s.id ? "filled" : "default"}
              aria-pressed={compare === s.id}
              aria-label={`Wipe against ${s.name}`}
              onClick={() => compareWith(compare === s.id ? null : s.id)}
            >
              Wipe
            </Button>
            <Tooltip label={`Go back to ${s.name}; undo takes it back`}>
              <ActionIcon
                variant="default"
                size={26}
                aria-label={`Go back to ${s.name}`}
                onClick={() => goBackTo(s.id)}
              >
                <IconArrowBackUp size={14} />
              </ActionIcon>
            </Tooltip>
            <Tooltip label={`Take ${s.name} off the list`}>
              <ActionIcon
                variant="default"
                size={26}
                aria-label={`Take ${s.name} off the list`}
                onClick={() => {
                  setRemoved(s);
                  removeSnapshot(s.id);
                }}
              >
                <IconTrash size={14} />
              </ActionIcon>
            </Tooltip>
          </div>
        ))}
        <Variants />
        {against !== null && <BesideSwitch />}
        {removed && !snapshots.some((s) => s.id === removed.id) && (
          <div className="row">
            <span className="snapshot-name soft">{removed.name} is off the list.</span>
            <Button variant="subtle" onClick={() => restoreSnapshot(removed.id)}>
              Put it back
            </Button>
          </div>
        )}
        <KeepAs
          label="Name of the snapshot"
          kind="Snapshot"
          taken={snapshots.map((s) => s.name)}
          button="Keep it"
          anew={false}
          keep={keepSnapshot}
        />
      </Popover.Dropdown>
    </Popover>
  );
}

const NO_VARIANTS: Variant[] = [];

/** The variants that the present state can be wiped against. They are kept in the Dials room. */
function Variants() {
  const variants = useStore((s) => s.project?.document.variants ?? NO_VARIANTS);
  const against = useStore((s) => (s.compare === null ? s.against?.name : undefined));
  return variants.map(({ name }) => (
    <div key={name} className="row" data-kept={name}>
      <span className="snapshot-name" title={name}>
        {name} <span className="soft">variant</span>
      </span>
      <Button
        variant={against === name ? "filled" : "default"}
        aria-pressed={against === name}
        aria-label={`Wipe against the variant ${name}`}
        onClick={() =>
          against === name ? compareWith(null) : compareWithEdit({ name, edit: { edit: "take_variant", name } })
        }
      >
        Wipe
      </Button>
    </div>
  ));
}

function BesideSwitch() {
  const beside = useStore((s) => s.beside);
  return (
    <Switch
      size="xs"
      label="Side by side"
      checked={beside}
      onChange={(e) => useStore.setState({ beside: e.currentTarget.checked })}
    />
  );
}

/** The edge between the snapshot on the left and the present state on the right: dragged, or moved by the arrow keys. */
export function Wipe() {
  const snapshot = useStore(comparing);
  const beside = useStore((s) => s.beside);
  const along = useStore((s) => s.wipe);
  const wipe = beside ? 0.5 : along;
  if (snapshot === null) return null;
  const set = (to: number) => useStore.setState({ wipe: Math.min(1, Math.max(0, to)) });
  const drag = (e: PointerEvent<HTMLDivElement>) => {
    if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
    const box = e.currentTarget.parentElement?.getBoundingClientRect();
    if (box) set((e.clientX - box.left) / box.width);
  };
  const keys = (e: KeyboardEvent) => {
    const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[e.key];
    if (by === undefined) return;
    e.preventDefault();
    set(wipe + by);
  };
  return (
    <>
      <span className="wipe-label" style={{ right: `${(1 - wipe) * 100}%` }}>
        {snapshot}
      </span>
      <span className="wipe-label" style={{ left: `${wipe * 100}%` }}>
        now
      </span>
      {beside ? (
        <div className="beside" />
      ) : (
        <div
          className="wipe"
          style={{ left: `${wipe * 100}%` }}
          role="slider"
          tabIndex={0}
          aria-label="Wipe"
          aria-valuemin={0}
          aria-valuemax={100}
          aria-valuenow={Math.round(wipe * 100)}
          onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
          onPointerMove={drag}
          onKeyDown={keys}
        />
      )}
    </>
  );
}
