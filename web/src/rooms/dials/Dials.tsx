// The Dials room: exposed parameters, large and grouped, of the piece itself and of every recipe in use.
import { closestCenter, DndContext, type DragEndEvent } from "@dnd-kit/core";
import { SortableContext, useSortable, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { ActionIcon, Tooltip } from "@mantine/core";
import { IconGripVertical, IconTrash } from "@tabler/icons-react";

import type { Dial, Layer, ProjectView, Value } from "../../api/types";
import { useDragSensors } from "../../controls/useDragSensors";
import { commit, writeOn } from "../../state/actions";
import { allLayers, isShown } from "../../state/document";
import { NoteButton, NoteWords } from "../../controls/Note";
import { useStore } from "../../state/store";
import { ChangeDial, NewDial } from "./ChangeDial";
import { Ladder } from "./Ladder";
import { Turnable } from "./Turnable";
import { RecipeDials, type Use } from "./RecipeDials";
import { TrySix } from "./TrySix";
import { Variants } from "./Variants";

export function Dials() {
  const project = useStore((s) => s.project);
  if (!project) return null;
  const uses = allLayers(project.document.layers).filter(
    (l: Layer): l is Use => l.kind === "use" && l.recipe.dials.length > 0,
  );
  const own = project.document.dials;
  return (
    <>
      <div className="panel-head">
        <span>Dials</span>
        <span className="row">
          {own.length > 0 && <TrySix project={project} />}
          <Ladder project={project} />
          <NewDial />
        </span>
      </div>
      <OwnDials project={project} />
      {own.length > 0 && <Variants project={project} />}
      {uses.map((use) => (
        <RecipeDials key={use.id} use={use} />
      ))}
      {own.length === 0 && uses.length === 0 && (
        <p className="hint">
          No dials yet. In Build, press the ƒ beside any setting to make one of it; or make a new one here and let
          settings follow it.
        </p>
      )}
    </>
  );
}

/** The project's dials by groups; dragged by their handles, or moved by keyboard, within a group or to another one. */
function OwnDials({ project }: { project: ProjectView }) {
  const sensors = useDragSensors();
  const all = project.document.dials;
  const stands = (id: string): Value | undefined => project.derived[id]?.value ?? all.find((d) => d.id === id)?.value;
  const shown = groups(all.filter((d) => isShown(d, stands)));
  const ids = shown.flatMap(([, dials]) => dials.map((d) => d.id));
  const dropped = ({ active, over }: DragEndEvent) => {
    const target = all.find((d) => d.id === over?.id);
    const moved = String(active.id);
    if (!target || target.id === moved) return;
    const down = ids.indexOf(moved) < ids.indexOf(target.id);
    const index = all.filter((d) => d.id !== moved).indexOf(target) + (down ? 1 : 0);
    void commit({ edit: "move_dial", dial: moved, index, group: target.group });
  };
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        {shown.map(([group, dials]) => (
          <section key={group} className="block">
            <h2 className="soft">{group || project.document.name}</h2>
            {dials.map((d) => (
              <OwnDial key={d.id} dial={d} project={project} />
            ))}
          </section>
        ))}
      </SortableContext>
    </DndContext>
  );
}

function groups(dials: Dial[]): [string, Dial[]][] {
  const out = new Map<string, Dial[]>();
  for (const d of dials) out.set(d.group, [...(out.get(d.group) ?? []), d]);
  return [...out];
}

function OwnDial({ dial, project }: { dial: Dial; project: ProjectView }) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition } = useSortable({
    id: dial.id,
  });
  const drives = project.driven[dial.id] ?? [];
  const led = project.derived[dial.id];
  return (
    <div ref={setNodeRef} style={{ transform: CSS.Translate.toString(transform), transition }}>
      <Turnable
        dial={dial}
        value={led?.value ?? dial.value}
        edit={(value) => ({ edit: "turn_dial", dial: dial.id, value })}
        {...(led ? { led } : {})}
        handle={
          <button
            ref={setActivatorNodeRef}
            className="grip"
            aria-label={`Move the dial ${dial.label}`}
            {...attributes}
            {...listeners}
          >
            <IconGripVertical size={14} />
          </button>
        }
        tools={
          <>
            <NoteButton of={dial.label} note={dial.note} keep={writeOn({ kind: "dial", dial: dial.id })} />
            <Tools dial={dial} />
          </>
        }
        note={
          <>
            {drives.length === 0 ? "Drives nothing yet." : `Drives ${drives.join(", ")}.`}
            <NoteWords note={dial.note} />
          </>
        }
      />
    </div>
  );
}

function Tools({ dial }: { dial: Dial }) {
  return (
    <>
      <ChangeDial dial={dial} />
      <Tooltip label="Remove the dial; what it drives keeps its value">
        <ActionIcon
          aria-label={`Remove the dial ${dial.label}`}
          onClick={() => void commit({ edit: "remove_dial", dial: dial.id })}
        >
          <IconTrash size={15} />
        </ActionIcon>
      </Tooltip>
    </>
  );
}
