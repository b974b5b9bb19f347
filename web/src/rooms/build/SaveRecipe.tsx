// Saves a layer or group, with the dials that drive it, as a recipe in the cabinet.
import { Button, Modal, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../../api/client";
import type { Layer } from "../../api/types";
import { say } from "../../state/actions";
import { useStore } from "../../state/store";

export function SaveRecipe({ layer, close }: { layer: Layer; close: () => void }) {
  const id = useStore((s) => s.project?.id ?? 0);
  const queries = useQueryClient();
  const [name, setName] = useState(layer.name);
  const [note, setNote] = useState("");
  const save = async () => {
    close();
    try {
      queries.setQueryData(["cabinet"], await api.saveRecipe(id, { layer: layer.id, name: name.trim(), note: note.trim() }));
      notifications.show({ message: `${name.trim()} is in the cabinet.` });
    } catch (error) {
      say(error);
    }
  };
  return (
    <Modal opened onClose={close} title="Save as a recipe" size="sm">
      <form onSubmit={(e) => { e.preventDefault(); void save(); }} onKeyDown={(e) => e.stopPropagation()} style={{ display: "flex", flexDirection: "column", gap: 12 }}>
        <TextInput label="Name" data-autofocus value={name} onChange={(e) => setName(e.currentTarget.value)} />
        <TextInput label="Note: when to use it" value={note} onChange={(e) => setNote(e.currentTarget.value)} />
        <p className="soft">The dials that drive its settings go with it.</p>
        <Button type="submit" disabled={name.trim() === ""}>Save</Button>
      </form>
    </Modal>
  );
}
