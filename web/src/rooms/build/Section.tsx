// The section: the layers as a cut through the coats, top coat at the top, the bare piece at the bottom.
import { Button, Menu, Tooltip } from "@mantine/core";
import { closestCenter, DndContext, type DragEndEvent } from "@dnd-kit/core";
import { SortableContext, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { useState } from "react";

import type { Layer, LayerCoverage } from "../../api/types";
import { takes } from "../../cabinet/drag";
import { useDragSensors } from "../../controls/useDragSensors";
import { useStore } from "../../state/store";
import { Coat } from "./Coat";
import { Finishes } from "./Finishes";
import { OpenedUse } from "./OpenedUse";
import { layOver, layPlainOver, moveTo, pasteLayer } from "./lay";

interface Row {
  layer: Layer;
  depth: number;
}

/** Rows from the top down; what lies in a folded group is left out. */
function rows(layers: Layer[], folded: string[], depth = 0): Row[] {
  return [...layers]
    .reverse()
    .flatMap((layer) => [
      { layer, depth },
      ...(layer.kind === "group" && !folded.includes(layer.id) ? rows(layer.layers, folded, depth + 1) : []),
    ]);
}

const NOTHING: LayerCoverage[] = [];

export function Section() {
  const layers = useStore((s) => s.project?.document.layers);
  const piece = useStore((s) => s.project?.piece);
  const selected = useStore((s) => s.layer);
  const coverage = useStore((s) => s.evaluation?.coverage ?? NOTHING);
  const copied = useStore((s) => s.copiedLayer);
  const [finishes, setFinishes] = useState(false);
  const folded = useStore((s) => s.folded);
  const sensors = useDragSensors();
  if (!layers || !piece) return null;
  const all = rows(layers, folded);
  const ids = all.map((r) => r.layer.id);
  const dropped = ({ active, over }: DragEndEvent) => {
    if (!over) return;
    const [moved, target] = [String(active.id), String(over.id)];
    moveTo(layers, moved, target, ids.indexOf(moved) < ids.indexOf(target));
  };
  const fold = (id: string) => {
    const rest = folded.filter((f) => f !== id);
    useStore.setState({ folded: rest.length < folded.length ? rest : [...rest, id] });
  };
  const uncovered =
    1 - coverage.filter((c) => layers.some((l) => l.id === c.layer)).reduce((sum, c) => sum + c.visible, 0);
  return (
    <>
      <div className="panel-head">
        <span>Section</span>
        <span>visible</span>
      </div>
      <OpenedUse />
      <div>
        <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
          <SortableContext items={ids} strategy={verticalListSortingStrategy}>
            <div role="list" aria-label="Layers, top coat first" {...takes("section", null)}>
              {all.map(({ layer, depth }) => (
                <Coat
                  key={layer.id}
                  layer={layer}
                  depth={depth}
                  selected={layer.id === selected}
                  visible={coverage.find((c) => c.layer === layer.id)?.visible ?? null}
                  folded={folded.includes(layer.id)}
                  fold={() => fold(layer.id)}
                />
              ))}
              <div className="coat" role="listitem" style={{ cursor: "default" }}>
                <span className="core bare">
                  <i style={{ width: `${Math.max(0, coverage.length > 0 ? uncovered : 1) * 100}%` }} />
                </span>
                <span className="coat-text">
                  <span className="coat-name soft">Bare piece</span>
                  <span className="coat-words">
                    {some(piece.parts.length, "part")}, {some(piece.shells, "shell")}
                  </span>
                </span>
              </div>
            </div>
          </SortableContext>
        </DndContext>
      </div>
      <div className="lay">
        <Button variant="default" onClick={() => void layPlainOver("coat", selected)}>
          Lay a coat
        </Button>
        <Tooltip label="A ready finish: steel, enamel, limewash, cloth …">
          <Button variant="default" onClick={() => setFinishes(true)}>
            Finish…
          </Button>
        </Tooltip>
        <Adjustments over={selected} />
        <Button variant="default" onClick={() => void layPlainOver("group", selected)}>
          Group
        </Button>
        {copied !== null && (
          <Tooltip label="Lay the layer that was copied, here or in another project">
            <Button variant="default" onClick={() => pasteLayer(selected)}>
              Paste
            </Button>
          </Tooltip>
        )}
      </div>
      {finishes && <Finishes close={() => setFinishes(false)} />}
      {layers.length === 0 && (
        <p className="hint">Nothing is laid yet. Lay a coat, or open the cabinet and lay a recipe.</p>
      )}
    </>
  );
}

/** Layers that change what lies below instead of covering it. */
function Adjustments({ over }: { over: string | null }) {
  const catalog = useStore((s) => s.catalog);
  const all = catalog.filter((e) => e.family === "adjustment" || e.family === "palette");
  return (
    <Menu position="top-start" width={260} withinPortal>
      <Menu.Target>
        <Button variant="default">Adjust…</Button>
      </Menu.Target>
      <Menu.Dropdown className="show-box">
        {all.map(
          ({ kind, label, help, layer }) =>
            layer && (
              <Menu.Item key={kind} data-kind={kind} onClick={() => void layOver(layer, over)}>
                {label}
                <small className="soft menu-help">{help}</small>
              </Menu.Item>
            ),
        )}
      </Menu.Dropdown>
    </Menu>
  );
}

const some = (count: number, what: string) => `${count} ${what}${count === 1 ? "" : "s"}`;
