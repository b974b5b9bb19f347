// Made-up pictures for pins, to be picked by what they look like.
import { ActionIcon, Popover, Tooltip } from "@mantine/core";
import { IconRubberStamp } from "@tabler/icons-react";
import { useState } from "react";

import { api } from "../api/client";
import type { MadeCard } from "../api/types";
import { bring, say } from "../state/actions";
import { busy } from "../state/store";

interface Props {
  disabled: boolean;
  /** `inside` a box that closes when something outside of it is clicked. */
  inside: boolean;
  /** Is told the file name under which it was brought in. */
  keep: (name: string) => void;
}

export function MadePictures({ disabled, inside, keep }: Props) {
  const [opened, setOpened] = useState(false);
  const [all, setAll] = useState<MadeCard[]>([]);
  const open = async () => {
    setOpened(!opened);
    if (opened || all.length > 0) return;
    const done = busy();
    try {
      setAll(await api.madePictures());
    } catch (error) {
      say(error);
    } finally {
      done();
    }
  };
  const take = async (key: string) => {
    setOpened(false);
    const after = await bring((p) => api.takeMade(p.id, p.revision, key));
    const picture = after?.document.intake.pictures.at(-1);
    if (picture) keep(picture.file);
  };
  const title = "Made-up pictures: stencils, tags, tape, prints";
  return (
    <Popover opened={opened} onChange={setOpened} position="left-start" width={316} withinPortal={!inside} trapFocus>
      <Popover.Target>
        <Tooltip label={title}>
          <ActionIcon aria-label="Made-up pictures" variant="default" disabled={disabled} onClick={() => void open()}>
            <IconRubberStamp size={14} />
          </ActionIcon>
        </Tooltip>
      </Popover.Target>
      <Popover.Dropdown aria-label={title}>
        <div className="made-pictures">
          {all.map((made) => (
            <Tooltip key={made.key} label={made.help} multiline maw={220}>
              <button onClick={() => void take(made.key)}>
                <img src={api.madePicture(made.key)} alt="" loading="lazy" />
                <span>{made.label}</span>
              </button>
            </Tooltip>
          ))}
        </div>
      </Popover.Dropdown>
    </Popover>
  );
}
