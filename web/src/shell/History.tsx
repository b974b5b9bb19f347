// What was done, step by step: the list beside Undo. The state under the pointer is shown, and a click goes there.
import { ActionIcon, Popover, Tooltip } from "@mantine/core";
import { IconChevronDown } from "@tabler/icons-react";
import { useEffect, useState } from "react";

import { api } from "../api/client";
import type { StateView } from "../api/types";
import { Look } from "../controls/Look";
import { goToState, say } from "../state/actions";
import { useStore } from "../state/store";
import { when } from "../state/when";
import { asSeen } from "../view/asSeen";

/** Pixels of the picture from top to bottom, and samples to each. */
const PICTURE = { height: 200, samples: 8 };

export function History() {
  const [opened, setOpened] = useState(false);
  const title = "What was done";
  return (
    <Popover opened={opened} onChange={setOpened} position="bottom-end" width={520} withinPortal trapFocus>
      <Popover.Target>
        <Tooltip label={title}>
          <ActionIcon variant="default" size={26} aria-label={title} onClick={() => setOpened(!opened)}>
            <IconChevronDown size={14} />
          </ActionIcon>
        </Tooltip>
      </Popover.Target>
      <Popover.Dropdown aria-label={title}>{opened && <States close={() => setOpened(false)} />}</Popover.Dropdown>
    </Popover>
  );
}

function States({ close }: { close: () => void }) {
  const id = useStore((s) => s.project?.id);
  const revision = useStore((s) => s.project?.revision);
  const [states, setStates] = useState<StateView[]>([]);
  const [pointed, setPointed] = useState<number | null>(null);
  const [still] = useState(() => asSeen(PICTURE.height, PICTURE.samples));
  useEffect(() => {
    if (id === undefined) return;
    let wanted = true;
    api.history(id).then((all) => wanted && setStates(all), say);
    return () => {
      wanted = false;
    };
  }, [id, revision]);
  const shown = pointed ?? revision;
  return (
    <div className="history">
      <ol aria-label="What was done, the latest first">
        {states.map((s) => (
          <li key={s.revision}>
            <button
              data-state={s.when}
              aria-current={s.when === "now"}
              onPointerEnter={() => setPointed(s.revision)}
              onFocus={() => setPointed(s.revision)}
              onClick={() => {
                close();
                if (s.when !== "now") goToState(s.revision);
              }}
            >
              <span>{s.label}</span>
              <small className="soft">{when(new Date(s.made * 1000))}</small>
            </button>
          </li>
        ))}
      </ol>
      <div>
        {shown !== undefined && <Look key={shown} at={shown} edits={[]} still={still} alt="The piece at that step" />}
        <small className="soft">A click goes there. What lies above stays until something else is done.</small>
      </div>
    </div>
  );
}
