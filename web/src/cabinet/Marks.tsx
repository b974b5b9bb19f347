// What is noted of a thing of the cabinet: the star of a favourite, and taking it out, which can be taken back.
import { ActionIcon, Button, Menu, Tooltip } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { IconDots, IconStar, IconStarFilled } from "@tabler/icons-react";

import type { MarkRequest, MarksView } from "../api/types";

interface Props {
  name: string;
  marks: MarksView;
  mark: (marks: MarkRequest) => void;
  /** What else can be done with it. */
  children?: React.ReactNode;
}

export function Marks({ name, marks, mark, children }: Props) {
  const label = marks.favourite ? `${name} is no favourite` : `Make ${name} a favourite`;
  return (
    <span className="thing-marks">
      <Tooltip label={label}>
        <ActionIcon size={22} aria-label={label} onClick={() => mark({ favourite: !marks.favourite })}>
          {marks.favourite ? <IconStarFilled size={14} /> : <IconStar size={14} />}
        </ActionIcon>
      </Tooltip>
      <Menu position="bottom-end" withinPortal>
        <Menu.Target>
          <ActionIcon size={22} aria-label={`More for ${name}`}>
            <IconDots size={14} />
          </ActionIcon>
        </Menu.Target>
        <Menu.Dropdown>
          {children}
          <Menu.Item onClick={() => takeOut(name, mark)}>Take out of the cabinet</Menu.Item>
        </Menu.Dropdown>
      </Menu>
    </span>
  );
}

function takeOut(name: string, mark: Props["mark"]): void {
  mark({ removed: true });
  const id = `out-${name}`;
  const back = () => {
    notifications.hide(id);
    mark({ removed: false });
  };
  notifications.show({
    id,
    message: (
      <>
        {name} is out of the cabinet.{" "}
        <Button variant="subtle" onClick={back}>
          Put it back
        </Button>
      </>
    ),
  });
}
