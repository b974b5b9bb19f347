// What is done on the board: what comes to it, and what is done with what is picked.
import { ActionIcon, Button, Tooltip } from "@mantine/core";
import {
  IconArrowDown,
  IconArrowUp,
  IconArrowsMaximize,
  IconCrop,
  IconPalette,
  IconPencil,
  IconTrash,
} from "@tabler/icons-react";

import { PICTURE_FILES } from "../../api/bundle";
import { api } from "../../api/client";
import type { BoardItem } from "../../api/types";
import { BringFiles } from "../../controls/BringFiles";
import { freeName } from "../../controls/KeepAs";
import { usePalettes } from "../../controls/Palettes";
import { commit, say } from "../../state/actions";
import { busy, useStore } from "../../state/store";
import { type BoardPicture, isLying, type Tool } from "./geometry";

interface Props {
  chosen: BoardItem[];
  tool: Tool;
  setTool: (tool: Tool) => void;
  cutting: boolean;
  setCutting: (on: boolean) => void;
  /** Pictures that are still on their way. */
  coming: number;
  bring: (files: File[]) => void;
  note: () => void;
  frame: () => void;
  stack: (up: boolean) => void;
  remove: () => void;
  write: () => void;
  whole: () => void;
  put: (...items: BoardItem[]) => Promise<unknown>;
}

/** How many colours are pulled from a picture. */
const COLORS = 6;

export function BoardTools(props: Props) {
  const { chosen, tool, setTool, cutting, setCutting, coming, bring, note, frame, stack, remove, write, whole } = props;
  const palettes = usePalettes();
  const [one] = chosen.length === 1 ? chosen : [];
  const pointing = tool.kind === "arrow";
  const pull = async (picture: BoardPicture) => {
    const project = useStore.getState().project;
    if (!project) return;
    const done = busy();
    try {
      const colors = await api.pictureColors(project.id, picture.hash, COLORS);
      const called = picture.text?.trim().slice(0, 100) || picture.file.replace(/\.[^.]*$/, "");
      const taken = palettes.map((p) => p.name);
      const name = picture.palette ?? (taken.includes(called) ? freeName(called, taken) : called);
      await commit(
        { edit: "keep_palette", palette: { name, colors } },
        { edit: "put_on_board", items: [{ ...picture, palette: name }] },
      );
    } catch (error) {
      say(error);
    } finally {
      done();
    }
  };
  return (
    <div className="board-tools" role="toolbar" aria-label="Board tools">
      <BringFiles label="Pictures for the board" accept={PICTURE_FILES} multiple take={bring}>
        {(open) => (
          <Button variant="default" {...open}>
            Bring pictures in
          </Button>
        )}
      </BringFiles>
      <Button variant="default" onClick={note}>
        Note
      </Button>
      <Button
        variant={pointing ? "filled" : "default"}
        aria-pressed={pointing}
        onClick={() => {
          // From the note that is picked; otherwise from where is clicked first.
          const from = one && isLying(one) ? ([one.lies.at[0], one.lies.at[1]] as [number, number]) : null;
          setTool(pointing ? { kind: "none" } : { kind: "arrow", from });
        }}
      >
        Arrow
      </Button>
      <Button variant="default" onClick={frame}>
        Frame
      </Button>
      {pointing && (
        <span className="soft">
          {tool.from ? "Click where it points to." : "Click where it begins."} Escape leaves it.
        </span>
      )}
      {coming > 0 && (
        <span className="soft" role="status">
          {coming} {coming === 1 ? "picture" : "pictures"} to come
        </span>
      )}
      {!pointing && one?.kind === "picture" && (
        <>
          <span className="board-gap" />
          <Button variant="default" onClick={() => stand(one)}>
            Stand beside the piece
          </Button>
          <Sign label="Pull its colours as a palette" act={() => void pull(one)}>
            <IconPalette size={15} />
          </Sign>
          <Sign label={cutting ? "Done cutting" : "Cut it"} on={cutting} act={() => setCutting(!cutting)}>
            <IconCrop size={15} />
          </Sign>
        </>
      )}
      {!pointing && one && isLying(one) && (
        <>
          <Sign label={one.kind === "picture" ? "Write below it" : "Write in it"} act={write}>
            <IconPencil size={15} />
          </Sign>
          <Sign label="Over all others" act={() => stack(true)}>
            <IconArrowUp size={15} />
          </Sign>
          <Sign label="Below all others" act={() => stack(false)}>
            <IconArrowDown size={15} />
          </Sign>
        </>
      )}
      {!pointing && chosen.length > 0 && (
        <Sign label="Take off the board; undo brings it back" act={remove}>
          <IconTrash size={15} />
        </Sign>
      )}
      <span className="board-far">
        <Sign label="Show all of the board" act={whole}>
          <IconArrowsMaximize size={15} />
        </Sign>
      </span>
    </div>
  );
}

/** A picture stands beside the piece, in every room. */
function stand(picture: BoardPicture): void {
  useStore.setState({
    reference: { item: picture.id, at: [0.03, 0.05], width: 0.32, exposure: 0, seen: 1, through: false },
  });
}

function Sign({
  label,
  on = false,
  act,
  children,
}: {
  label: string;
  on?: boolean;
  act: () => void;
  children: React.ReactNode;
}) {
  return (
    <Tooltip label={label}>
      <ActionIcon variant={on ? "filled" : "default"} color="verdigris" size={26} aria-label={label} onClick={act}>
        {children}
      </ActionIcon>
    </Tooltip>
  );
}
