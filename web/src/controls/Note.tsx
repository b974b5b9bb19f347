// A note on a layer, a step, a dial or a row of the plan: a mark where it stands, its words, and a field to write them in.
import { ActionIcon, Popover, Textarea, Tooltip } from "@mantine/core";
import { IconNote } from "@tabler/icons-react";
import { useState } from "react";

import { useDraft } from "./useDraft";

interface Props {
  /** What it is on, as the artist knows it. */
  of: string;
  note: string | undefined;
  keep: (text: string) => void;
}

/** A button that opens the note. */
export function NoteButton({ of, note = "", keep }: Props) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useDraft(note, (v) => v);
  const written = () => {
    if (text.trim() !== note) keep(text.trim());
  };
  const turn = (to: boolean) => {
    setOpen(to);
    if (!to) written();
  };
  return (
    <Popover opened={open} onChange={turn} position="bottom-end" width={260} withinPortal trapFocus>
      <Popover.Target>
        <Tooltip label={note || `Write a note on ${of}`} multiline maw={260}>
          <ActionIcon
            size={20}
            className={note ? "noted" : undefined}
            aria-label={`Note on ${of}`}
            onClick={() => turn(!open)}
          >
            <IconNote size={14} />
          </ActionIcon>
        </Tooltip>
      </Popover.Target>
      <Popover.Dropdown onKeyDown={(e) => e.stopPropagation()} onClick={(e) => e.stopPropagation()}>
        <Textarea
          data-autofocus
          autosize
          minRows={2}
          maxRows={10}
          maxLength={2000}
          label={`Note on ${of}`}
          description="Leave it empty to take the note away."
          value={text}
          onChange={(e) => setText(e.currentTarget.value)}
          onBlur={written}
          // One goes on writing where one left off.
          onFocus={(e) => e.currentTarget.setSelectionRange(text.length, text.length)}
          onKeyDown={(e) => {
            if (e.key === "Escape" || (e.key === "Enter" && !e.shiftKey)) {
              e.preventDefault();
              turn(false);
            }
          }}
        />
      </Popover.Dropdown>
    </Popover>
  );
}

/** Says that there is a note, and what it says to whoever points at it. */
export function NoteMark({ note }: { note: string | undefined }) {
  if (!note) return null;
  return (
    <Tooltip label={note} multiline maw={260}>
      <span className="note-mark" role="img" aria-label={`Note: ${note}`}>
        <IconNote size={13} />
      </span>
    </Tooltip>
  );
}

/** The words where there is room for them. */
export function NoteWords({ note }: { note: string | undefined }) {
  return note ? <p className="note-words">{note}</p> : null;
}
