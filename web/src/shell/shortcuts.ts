// Keys. Those of the web at large keep their meaning; the others are listed under `?`.
import { useHotkeys } from "@mantine/hooks";
import { useEffect } from "react";

import { commit, commitAndSelectNew, redo, say, select, show, turnProbe, turnWipe, undo } from "../state/actions";
import { takeUp, turnBrush } from "../state/brush";
import { findLayer } from "../state/document";
import { type Shown, useStore } from "../state/store";
import { openRooms } from "./rooms";

export const SHORTCUTS: [string, string][] = [
  ["1 – 5", "The rooms, in the order of the path"],
  ["Ctrl Z", "Undo"],
  ["Ctrl Shift Z", "Redo"],
  ["/", "Find a step for the mask line"],
  ["S held", "Show the selected layer's mask alone"],
  ["H", "Hide or show the selected layer"],
  ["Ctrl D", "Duplicate the selected layer"],
  ["Ctrl G", "Group the selected layer"],
  ["Delete", "Remove the selected step or layer"],
  ["P", "Probe: click a spot to see what every layer did there"],
  ["W", "Wipe between now and the last snapshot"],
  ["F", "Frame the piece"],
  ["L", "Look closely at the spot under the pointer"],
  ["B", "Take up the brush and draw in the mask line; again puts it down"],
  ["[ and ]", "Size of the brush; with Shift its hardness"],
  ["Arrows", "Move the selected pin by a millimetre, with Shift by ten; [ and ] size it, with Shift they turn it"],
  ["Alt held", "The brush takes away; Shift goes on straight from its last end"],
  ["V", "Put the panels away, or bring them back"],
  ["C", "Open the cabinet"],
  ["?", "This list"],
];

const selected = () => {
  const { project, layer } = useStore.getState();
  return project && layer !== null ? findLayer(project.document.layers, layer) : undefined;
};

function remove(): void {
  const layer = selected();
  const { step, room } = useStore.getState();
  // Where no section is seen, nothing of it goes.
  if (!layer || room !== "build") return;
  if (step !== null) {
    void commit({ edit: "remove_step", layer: layer.id, step });
    select(layer.id);
  } else {
    void commit({ edit: "remove_layer", layer: layer.id });
  }
}

const typing = (e: KeyboardEvent) =>
  e.target instanceof HTMLElement && (e.target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(e.target.tagName));

/** While S is held the mask is shown alone; let go, what was shown before comes back. */
function useMaskWhileHeld(): void {
  useEffect(() => {
    let before: Shown | null = null;
    const down = (e: KeyboardEvent) => {
      const { layer, shown } = useStore.getState();
      if (
        e.key.toLowerCase() !== "s" ||
        e.repeat ||
        e.ctrlKey ||
        e.metaKey ||
        typing(e) ||
        layer === null ||
        shown === "mask"
      )
        return;
      before = shown;
      show("mask");
    };
    const up = (e: KeyboardEvent) => {
      if (e.key.toLowerCase() !== "s" || before === null) return;
      show(before);
      before = null;
    };
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
    };
  }, []);
}

export function useShortcuts(id: number, go: (path: string) => void): void {
  const room = (place: number) => () => {
    const name = openRooms(useStore.getState().project)[place - 1];
    if (name) go(`/p/${id}/${name}${location.search}`);
  };
  const withLayer = (act: (layer: NonNullable<ReturnType<typeof selected>>) => void) => () => {
    const layer = selected();
    if (layer) act(layer);
  };
  useMaskWhileHeld();
  // In a field that is typed in, these belong to the field; a list that was chosen from keeps the focus, and nothing is typed there.
  const unlessTyping = (act: () => void) => (e: KeyboardEvent) => {
    if (typing(e) && !(e.target instanceof HTMLInputElement && e.target.readOnly)) return;
    e.preventDefault();
    act();
  };
  useHotkeys(
    [
      ["mod+Z", unlessTyping(undo), { preventDefault: false }],
      ["mod+shift+Z", unlessTyping(redo), { preventDefault: false }],
      ["mod+Y", unlessTyping(redo), { preventDefault: false }],
    ],
    [],
  );
  useHotkeys([
    ["1", room(1)],
    ["2", room(2)],
    ["3", room(3)],
    ["4", room(4)],
    ["5", room(5)],
    [
      "/",
      () =>
        selected()
          ? useStore.setState({ finderOpen: true })
          : say("Select a layer first: steps are found for its mask line."),
    ],
    ["H", withLayer((l) => void commit({ edit: "set_layer", layer: l.id, shown: !l.shown }))],
    ["mod+D", withLayer((l) => void commitAndSelectNew({ edit: "duplicate_layer", layer: l.id }))],
    ["mod+G", withLayer((l) => void commitAndSelectNew({ edit: "group_layer", layer: l.id, name: "Group" }))],
    ["Delete", remove],
    [
      "P",
      () => {
        if (useStore.getState().room === "build") turnProbe();
      },
    ],
    ["W", turnWipe],
    ["F", () => window.dispatchEvent(new Event("dustcoat:frame"))],
    ["L", () => window.dispatchEvent(new Event("dustcoat:closely"))],
    [
      "B",
      () => {
        if (useStore.getState().room === "build") void takeUp(selected());
      },
    ],
    ["[", () => turnBrush("radius", false)],
    ["]", () => turnBrush("radius", true)],
    // As keyboards write them with Shift held.
    ["shift+{", () => turnBrush("hardness", false)],
    ["shift+}", () => turnBrush("hardness", true)],
    ["V", () => useStore.setState((s) => ({ away: !s.away }))],
    ["C", () => useStore.setState({ cabinetOpen: true })],
    ["shift+?", () => useStore.setState({ keysOpen: true })],
  ]);
}
