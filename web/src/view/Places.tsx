// Places of the camera: kept with the project, to come back to.
import { ActionIcon, Button, Popover, Tooltip } from "@mantine/core";
import { IconTrash } from "@tabler/icons-react";

import type { Place } from "../api/types";
import { KeepAs } from "../controls/KeepAs";
import { commit } from "../state/actions";
import { useStore } from "../state/store";

const NONE: Place[] = [];

export function Places() {
  const places = useStore((s) => s.project?.document.places ?? NONE);
  const keep = (name: string) => {
    const { camera } = useStore.getState();
    if (camera) void commit({ edit: "keep_place", place: { name, eye: camera.eye, target: camera.target } });
  };
  return (
    <Popover position="top-start" width={280} withinPortal trapFocus>
      <Popover.Target>
        <Button variant="default">Places</Button>
      </Popover.Target>
      <Popover.Dropdown className="light-box">
        <Button variant="default" onClick={() => window.dispatchEvent(new Event("dustcoat:frame"))}>
          Frame the piece
        </Button>
        {places.map((p) => (
          <div key={p.name} className="row" data-place={p.name}>
            <span className="snapshot-name" title={p.name}>
              {p.name}
            </span>
            <Button
              variant="default"
              aria-label={`Look from ${p.name}`}
              onClick={() => window.dispatchEvent(new CustomEvent("dustcoat:place", { detail: p }))}
            >
              Look
            </Button>
            <Tooltip label={`Forget ${p.name}; undo brings it back`}>
              <ActionIcon
                variant="default"
                size={26}
                aria-label={`Forget ${p.name}`}
                onClick={() => void commit({ edit: "remove_place", name: p.name })}
              >
                <IconTrash size={14} />
              </ActionIcon>
            </Tooltip>
          </div>
        ))}
        <KeepAs
          label="Name of the place"
          kind="Place"
          taken={places.map((p) => p.name)}
          button="Keep this one"
          keep={keep}
        />
      </Popover.Dropdown>
    </Popover>
  );
}
