// One row of the section: core strip, name, what its mask is made of, what of it is seen, and its opacity.
import { ActionIcon, Menu, Tooltip } from "@mantine/core";
import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { IconChevronDown, IconChevronRight, IconDots, IconEye, IconEyeOff, IconPlus } from "@tabler/icons-react";
import { useEffect, useRef, useState } from "react";

import type { Layer } from "../../api/types";
import { commit, commitAndSelectNew, select } from "../../state/actions";
import { bands } from "../../controls/bands";
import { NoteMark } from "../../controls/Note";
import { percent, sentence } from "../../state/document";
import { useStore } from "../../state/store";
import { copyLayer, layPlainInside, layPlainOver, pasteLayer } from "./lay";
import { takes } from "../../cabinet/drag";
import { OpacityDrag } from "./OpacityDrag";
import { SaveRecipe } from "./SaveRecipe";

interface Props {
  layer: Layer;
  depth: number;
  selected: boolean;
  visible: number | null;
  folded: boolean;
  fold: () => void;
}

export function Coat({ layer, depth, selected, visible, folded, fold }: Props) {
  const catalog = useStore((s) => s.catalog);
  const colors = useStore((s) => s.project?.colors[layer.id]);
  const { setNodeRef, attributes, listeners, transform, transition, isDragging } = useSortable({ id: layer.id });
  const [renaming, setRenaming] = useState(false);
  const row = useRef<HTMLDivElement | null>(null);
  // What is laid or found elsewhere is brought into view.
  useEffect(() => {
    if (selected) row.current?.scrollIntoView({ block: "nearest" });
  }, [selected]);
  const opened = useStore((s) => s.project?.document.opened);
  const open = opened?.layer === layer.id ? `recipe ${opened.recipe.name}, open` : null;
  const words = open ?? (layer.kind === "use" ? `recipe ${layer.recipe.name}` : sentence(layer.mask.steps, catalog));
  const core = layer.kind === "adjust" ? "core changes" : "core";
  const classes = ["coat", selected && "selected", !layer.shown && "hidden", isDragging && "dragging"]
    .filter(Boolean)
    .join(" ");
  return (
    <div
      ref={(element) => {
        row.current = element;
        setNodeRef(element);
      }}
      className={classes}
      style={{ transform: CSS.Translate.toString(transform), transition: transition, paddingLeft: depth * 14 }}
      role="listitem"
      data-layer={layer.name}
      onClick={() => select(layer.id)}
      {...takes("section", layer.id)}
    >
      <span className="insert-here">
        <Tooltip label={`Lay a coat over ${layer.name}`}>
          <ActionIcon
            size={18}
            aria-label={`Lay a coat over ${layer.name}`}
            onClick={(e) => {
              e.stopPropagation();
              void layPlainOver("coat", layer.id);
            }}
          >
            <IconPlus size={12} />
          </ActionIcon>
        </Tooltip>
      </span>
      <span
        className={core}
        {...attributes}
        {...listeners}
        aria-label={`Move ${layer.name}: space, then the arrow keys`}
        style={{ cursor: "grab", touchAction: "none" }}
      >
        <i
          style={{
            width: `${(visible ?? 0) * 100}%`,
            ...(layer.kind === "adjust" ? {} : { background: bands(colors ?? []) }),
          }}
        />
      </span>
      <span className="coat-text" {...listeners}>
        {renaming ? (
          <Rename layer={layer} done={() => setRenaming(false)} />
        ) : (
          <span className="coat-name" onDoubleClick={() => setRenaming(true)}>
            {layer.kind === "group" && (
              <ActionIcon
                size={16}
                aria-label={folded ? `Unfold ${layer.name}` : `Fold ${layer.name}`}
                onClick={(e) => {
                  e.stopPropagation();
                  fold();
                }}
              >
                {folded ? <IconChevronRight size={13} /> : <IconChevronDown size={13} />}
              </ActionIcon>
            )}
            <button className="name-button" title={layer.name} onClick={() => select(layer.id)}>
              {layer.name}
            </button>
            <NoteMark note={layer.note} />
          </span>
        )}
        <span className="coat-words" title={words}>
          {layer.shown ? words : "hidden"}
        </span>
      </span>
      <span className="coat-side">
        <b data-visible>{visible === null ? "–" : percent(visible)}</b>
        <span className="coat-tools">
          <OpacityDrag layer={layer} />
          <Eye layer={layer} />
          <More layer={layer} rename={() => setRenaming(true)} />
        </span>
      </span>
    </div>
  );
}

function Eye({ layer }: { layer: Layer }) {
  const label = layer.shown ? `Hide ${layer.name}` : `Show ${layer.name}`;
  return (
    <Tooltip label={label}>
      <ActionIcon
        size={18}
        aria-label={label}
        onClick={(e) => {
          e.stopPropagation();
          void commit({ edit: "set_layer", layer: layer.id, shown: !layer.shown });
        }}
      >
        {layer.shown ? <IconEye size={13} /> : <IconEyeOff size={13} />}
      </ActionIcon>
    </Tooltip>
  );
}

function More({ layer, rename }: { layer: Layer; rename: () => void }) {
  const [saving, setSaving] = useState(false);
  const openedAlready = useStore((s) => s.project?.document.opened !== undefined);
  return (
    <span onClick={(e) => e.stopPropagation()}>
      <Menu position="bottom-end" withinPortal>
        <Menu.Target>
          <ActionIcon size={18} aria-label={`More for ${layer.name}`}>
            <IconDots size={13} />
          </ActionIcon>
        </Menu.Target>
        <Menu.Dropdown>
          {/* Once the menu has given the focus back, so that it isn't taken from the field. */}
          <Menu.Item onClick={() => window.setTimeout(rename, 60)}>Rename</Menu.Item>
          <Menu.Item onClick={() => void commitAndSelectNew({ edit: "duplicate_layer", layer: layer.id })}>
            Duplicate
          </Menu.Item>
          <Menu.Item onClick={() => void copyLayer(layer)}>Copy</Menu.Item>
          <Menu.Item onClick={() => pasteLayer(layer.id)}>Paste over it</Menu.Item>
          <Menu.Item
            onClick={() => void commitAndSelectNew({ edit: "group_layer", layer: layer.id, name: "New group" })}
          >
            Put into a group
          </Menu.Item>
          {layer.kind === "group" && (
            <Menu.Item onClick={() => void layPlainInside(layer)}>Lay a coat inside</Menu.Item>
          )}
          {layer.kind === "use" ? (
            <>
              <Menu.Item disabled={openedAlready} onClick={() => void commit({ edit: "open_use", layer: layer.id })}>
                Open in place
              </Menu.Item>
              <Menu.Item onClick={() => void commit({ edit: "loosen", layer: layer.id })}>Loosen into layers</Menu.Item>
            </>
          ) : (
            <Menu.Item onClick={() => setSaving(true)}>Save as a recipe…</Menu.Item>
          )}
          <Menu.Divider />
          <Menu.Item onClick={() => void commit({ edit: "remove_layer", layer: layer.id })}>Remove</Menu.Item>
        </Menu.Dropdown>
      </Menu>
      {saving && <SaveRecipe layer={layer} close={() => setSaving(false)} />}
    </span>
  );
}

function Rename({ layer, done }: { layer: Layer; done: () => void }) {
  const [name, setName] = useState(layer.name);
  const keep = () => {
    if (name.trim() && name.trim() !== layer.name)
      void commit({ edit: "set_layer", layer: layer.id, name: name.trim() });
    done();
  };
  return (
    <input
      className="rename"
      aria-label="Name of the layer"
      autoFocus
      value={name}
      onFocus={(e) => e.currentTarget.select()}
      onChange={(e) => setName(e.currentTarget.value)}
      onPointerDown={(e) => e.stopPropagation()}
      onBlur={keep}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") keep();
        if (e.key === "Escape") done();
      }}
    />
  );
}
