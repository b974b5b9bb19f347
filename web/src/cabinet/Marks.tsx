// What is noted of a thing of the cabinet: the star of a favourite, and taking it out, which can be taken back.
import { ActionIcon, Button, Menu, Tooltip } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { IconDots, IconStar, IconStarFilled } from "@tabler/icons-react";

import { api } from "../api/client";
import { queries } from "../api/queries";
import type { MarkRequest, MarksView } from "../api/types";
import { say } from "../state/actions";

interface Props {
  name: string;
  marks: MarksView;
  mark: (marks: MarkRequest) => void;
  /** What else can be done with it. */
  children?: React.ReactNode;
}

interface StarProps {
  name: string;
  favourite: boolean;
  set: (favourite: boolean) => void;
}

export function Star({ name, favourite, set }: StarProps) {
  const label = favourite ? `${name} is no favourite` : `Make ${name} a favourite`;
  return (
    <Tooltip label={label}>
      <ActionIcon size={22} aria-label={label} onClick={() => set(!favourite)}>
        {favourite ? <IconStarFilled size={14} /> : <IconStar size={14} />}
      </ActionIcon>
    </Tooltip>
  );
}

/** The star of what the cabinet shows and doesn't keep. */
export function Liked({ thing, name, favourite }: { thing: string; name: string; favourite: boolean }) {
  const set = (liked: boolean) =>
    void api.setFavourite(thing, liked).then((found) => queries.setQueryData(["found"], found), say);
  return (
    <span className="thing-marks">
      <Star name={name} favourite={favourite} set={set} />
    </span>
  );
}

export function Marks({ name, marks, mark, children }: Props) {
  return (
    <span className="thing-marks">
      <Star name={name} favourite={marks.favourite} set={(favourite) => mark({ favourite })} />
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
