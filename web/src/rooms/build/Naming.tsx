// Asks for a name and a note before something goes into the cabinet.
import { Button, Modal, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useState } from "react";

import { say } from "../../state/actions";

interface Props {
  title: string;
  hint: string;
  name: string;
  save: (name: string, note: string) => Promise<void>;
  close: () => void;
  /** What else is asked. */
  children?: React.ReactNode;
}

export function Naming({ title, hint, name: first, save, close, children }: Props) {
  const [name, setName] = useState(first);
  const [note, setNote] = useState("");
  const keep = async () => {
    close();
    try {
      await save(name.trim(), note.trim());
      notifications.show({ message: `${name.trim()} is in the cabinet.` });
    } catch (error) {
      say(error);
    }
  };
  return (
    <Modal opened onClose={close} title={title} size="sm">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void keep();
        }}
        onKeyDown={(e) => e.stopPropagation()}
        style={{ display: "flex", flexDirection: "column", gap: 12 }}
      >
        <TextInput label="Name" data-autofocus value={name} onChange={(e) => setName(e.currentTarget.value)} />
        <TextInput label="Note: when to use it" value={note} onChange={(e) => setNote(e.currentTarget.value)} />
        {children}
        <p className="soft">{hint}</p>
        <Button type="submit" disabled={name.trim() === ""}>
          Save
        </Button>
      </form>
    </Modal>
  );
}
