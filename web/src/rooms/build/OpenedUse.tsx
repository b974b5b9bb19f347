// The recipe that is open in place: how many follow, keeping it as its next version, or dropping what was done.
import { Button, TextInput } from "@mantine/core";
import { useState } from "react";

import { api } from "../../api/client";
import { bring, commit } from "../../state/actions";
import { allLayers } from "../../state/document";
import { useStore } from "../../state/store";

export function OpenedUse() {
  const opened = useStore((s) => s.project?.document.opened);
  const layers = useStore((s) => s.project?.document.layers);
  const [note, setNote] = useState("");
  if (!opened || !layers) return null;
  const { recipe } = opened;
  const others = allLayers(layers).filter((l) => l.kind === "use" && recipe.id && l.recipe.id === recipe.id).length;
  const follow =
    others === 0 ? "no other use of it here" : others === 1 ? "one other use follows" : `${others} other uses follow`;
  const keep = () => {
    setNote("");
    void bring((p) => api.keepOpened(p.id, { revision: p.revision, note }));
  };
  return (
    <div className="opened-use" data-opened={recipe.name}>
      <p>
        <b>{recipe.name}</b> is open: {follow}.
      </p>
      <TextInput
        size="xs"
        aria-label="What is new in it"
        placeholder="What is new in it"
        value={note}
        onChange={(e) => setNote(e.currentTarget.value)}
        onKeyDown={(e) => e.stopPropagation()}
      />
      <span className="row">
        <Button onClick={keep}>Keep as the next version</Button>
        <Button variant="default" onClick={() => void commit({ edit: "close_use", kept: null })}>
          Drop
        </Button>
      </span>
    </div>
  );
}
