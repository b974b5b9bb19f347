// The path across the top: rooms in the order of the work, the piece's name, undo, draft size, and what is being computed.
import {
  ActionIcon,
  Button,
  Modal,
  Progress,
  Select,
  Table,
  Tooltip,
  useComputedColorScheme,
  useMantineColorScheme,
} from "@mantine/core";
import { IconArrowBackUp, IconArrowForwardUp, IconKeyboard, IconMoon, IconSun, IconX } from "@tabler/icons-react";
import { Fragment, useEffect, useState } from "react";
import { Link } from "wouter";

import type { JobKind } from "../api/types";
import { commit, redo, undo } from "../state/actions";
import { stop } from "../state/jobs";
import { type Job, useStore } from "../state/store";
import { openRooms, type Room, ROOM_NAMES } from "./rooms";
import { History } from "./History";
import { SHORTCUTS } from "./shortcuts";
import { remaining } from "../state/when";

export function TopBar({ room }: { room: Room }) {
  const project = useStore((s) => s.project);
  return (
    <header className="topbar">
      <nav aria-label="Rooms">
        <Link href={`/${location.search}`} className="door">
          Projects
        </Link>
        {openRooms(project).map((r) => (
          <Fragment key={r}>
            <span className="dash" aria-hidden>
              —
            </span>
            <Link
              href={`/p/${project?.id ?? 0}/${r}${location.search}`}
              className={r === room ? "room here" : "room"}
              aria-current={r === room ? "page" : undefined}
            >
              {ROOM_NAMES[r]}
            </Link>
          </Fragment>
        ))}
      </nav>
      <div className="title">{project ? <Name key={project.document.name} name={project.document.name} /> : null}</div>
      <Working />
      <div className="tools">
        <UndoRedo />
        <DraftSize />
        <Button variant="default" onClick={() => useStore.setState({ cabinetOpen: true })}>
          Cabinet
        </Button>
        <Scheme />
        <Keys />
      </div>
    </header>
  );
}

function Name({ name }: { name: string }) {
  const [text, setText] = useState(name);
  const keep = () => {
    if (text.trim() && text !== name) void commit({ edit: "rename", name: text.trim() });
    else setText(name);
  };
  return (
    <input
      className="name-field"
      aria-label="Name of the piece"
      value={text}
      size={Math.max(8, text.length)}
      onChange={(e) => setText(e.currentTarget.value)}
      onBlur={keep}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}

function UndoRedo() {
  const undoable = useStore((s) => s.project?.undo ?? null);
  const redoable = useStore((s) => s.project?.redo ?? null);
  return (
    <>
      <Tooltip label={undoable ? `Undo “${undoable}”` : "Nothing to undo"}>
        <Button
          variant="default"
          className="undo"
          disabled={!undoable}
          onClick={undo}
          leftSection={<IconArrowBackUp size={15} />}
          aria-label={undoable ? `Undo ${undoable}` : "Undo"}
        >
          <span className="undo-label">{undoable ? `Undo “${undoable}”` : "Undo"}</span>
        </Button>
      </Tooltip>
      <History />
      <Tooltip label={redoable ? `Redo “${redoable}”` : "Nothing to redo"}>
        <ActionIcon
          variant="default"
          size={26}
          disabled={!redoable}
          onClick={redo}
          aria-label={redoable ? `Redo ${redoable}` : "Redo"}
        >
          <IconArrowForwardUp size={15} />
        </ActionIcon>
      </Tooltip>
    </>
  );
}

const SIZES = ["256", "512", "1024", "2048"];

function DraftSize() {
  const size = useStore((s) => s.project?.document.draft_size ?? 1024);
  return (
    <Tooltip label="Draft size: texels along a side while working">
      <Select
        className="draft"
        aria-label="Draft size"
        data={SIZES.map((value) => ({ value, label: `draft ${value}` }))}
        value={String(size)}
        onChange={(value) => value && void commit({ edit: "set_draft_size", size: Number(value) })}
      />
    </Tooltip>
  );
}

/** What is being computed, once it takes over half a second: each job by itself. */
function Working() {
  const jobs = useStore((s) => s.jobs);
  const pending = useStore((s) => s.pending > 0 || (s.evaluation?.improving ?? false));
  const all = Object.entries(jobs);
  const working = pending || all.length > 0;
  const [slow, setSlow] = useState(false);
  useEffect(() => {
    if (!working) return;
    const timer = window.setTimeout(() => setSlow(true), 500);
    return () => {
      window.clearTimeout(timer);
      setSlow(false);
    };
  }, [working]);
  return (
    <div className="working" role="status">
      {working && slow && all.length === 0 && (
        <div className="job">
          <span className="working-label">Computing</span>
          <Progress className="working-bar" value={100} animated size={6} aria-label="Computing" />
        </div>
      )}
      {working && slow && all.map(([number, job]) => <JobRow key={number} number={Number(number)} job={job} />)}
    </div>
  );
}

const STOP: Record<JobKind, string> = {
  measuring: "Stop measuring",
  still: "Stop the still",
  "hand-off": "Stop writing",
};

function JobRow({ number, job }: { number: number; job: Job }) {
  return (
    <div className="job" data-job={job.kind}>
      <span className="working-label">
        {job.label}
        {job.left !== null && job.left >= 1 && `, ${remaining(job.left)} left`}
      </span>
      <Progress
        className="working-bar"
        value={job.share * 100}
        size={6}
        transitionDuration={150}
        aria-label={job.label}
      />
      <Tooltip label={STOP[job.kind]}>
        <ActionIcon aria-label={STOP[job.kind]} size={18} onClick={() => stop(number)}>
          <IconX size={14} />
        </ActionIcon>
      </Tooltip>
    </div>
  );
}

/** Plaster or graphite: the panels alone, since the view's surround stays neutral in both. */
function Scheme() {
  const { setColorScheme } = useMantineColorScheme();
  const dark = useComputedColorScheme("light") === "dark";
  const label = dark ? "Light panels (plaster)" : "Dark panels (graphite)";
  return (
    <Tooltip label={label}>
      <ActionIcon
        variant="default"
        size={26}
        aria-label={label}
        onClick={() => setColorScheme(dark ? "light" : "dark")}
      >
        {dark ? <IconSun size={15} /> : <IconMoon size={15} />}
      </ActionIcon>
    </Tooltip>
  );
}

function Keys() {
  const opened = useStore((s) => s.keysOpen);
  const set = (keysOpen: boolean) => useStore.setState({ keysOpen });
  return (
    <>
      <Tooltip label="Keys">
        <ActionIcon variant="default" size={26} onClick={() => set(true)} aria-label="Keys">
          <IconKeyboard size={15} />
        </ActionIcon>
      </Tooltip>
      <Modal opened={opened} onClose={() => set(false)} title="Keys" size="sm">
        <Table>
          <Table.Tbody>
            {SHORTCUTS.map(([keys, what]) => (
              <Table.Tr key={keys}>
                <Table.Td className="mono">{keys}</Table.Td>
                <Table.Td>{what}</Table.Td>
              </Table.Tr>
            ))}
          </Table.Tbody>
        </Table>
      </Modal>
    </>
  );
}
