// The plan of the Study room: what the piece is to be made of, where, and how much of it, beside what there is.
import { closestCenter, DndContext, type DragEndEvent } from "@dnd-kit/core";
import { SortableContext, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { Button } from "@mantine/core";

import type { Element } from "../../api/types";
import { useDragSensors } from "../../controls/useDragSensors";
import { commit } from "../../state/actions";
import { percent } from "../../state/document";
import { useStore } from "../../state/store";
import { PlanRow } from "./PlanRow";

const NOTHING: Element[] = [];

export function Plan() {
  const plan = useStore((s) => s.project?.document.study?.plan ?? NOTHING);
  const fresh = useStore((s) => s.project?.plan.fresh);
  const sensors = useDragSensors();
  const missing = plan.filter((e) => e.layer === undefined);
  const over = useStore((s) => s.project?.plan.over);
  const dropped = ({ active, over }: DragEndEvent) => {
    const to = plan.findIndex((e) => e.id === over?.id);
    if (to >= 0 && over?.id !== active.id) void commit({ edit: "move_element", element: String(active.id), index: to });
  };
  return (
    <>
      <div className="panel-head plan-head">
        <span>Plan</span>
        <span>what, of what, where</span>
        <span>planned</span>
        <span>there</span>
        <span>answered by</span>
      </div>
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
        <SortableContext items={plan.map((e) => e.id)} strategy={verticalListSortingStrategy}>
          <div role="list" aria-label="Elements of the plan">
            {plan.map((element) => (
              <PlanRow key={element.id} element={element} />
            ))}
          </div>
        </SortableContext>
      </DndContext>
      {plan.length === 0 && (
        <p className="hint" style={{ paddingTop: 8 }}>
          Write down what will be seen of the piece, row by row: its body, the grime in recesses, worn edges. Each row
          is then laid in flat colour at a click, to see whether proportions hold before any detail goes in.
        </p>
      )}
      {typeof over === "number" && (
        <p className="hint warn">{percent(over)} are planned in all: more than there is of the piece.</p>
      )}
      <div className="plan-foot">
        {missing.length > 0 && (
          <Button onClick={() => void commit({ edit: "block_in", elements: missing.map((e) => e.id) })}>
            {missing.length < plan.length ? "Lay all that are missing, flat" : "Lay all of it, flat"}
          </Button>
        )}
        <Button
          variant={missing.length > 0 ? "default" : "filled"}
          onClick={() => fresh && void commit({ edit: "set_element", element: fresh })}
        >
          Add an element
        </Button>
      </div>
    </>
  );
}
