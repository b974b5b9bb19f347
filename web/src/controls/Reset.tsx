// Takes a setting or a dial back to its default.
import { ActionIcon, Tooltip } from "@mantine/core";
import { IconRotate2 } from "@tabler/icons-react";

interface Props {
  /** What is reset. */
  label: string;
  /** Its default, in words. */
  to: string;
  /** Whether it stands at another value. */
  changed: boolean;
  size: number;
  reset: () => void;
}

export function Reset({ label, to, changed, size, reset }: Props) {
  return (
    <Tooltip label={changed ? `Back to ${to}` : "At its default"}>
      <ActionIcon aria-label={`Reset ${label}`} disabled={!changed} variant="transparent" onClick={reset}>
        <IconRotate2 size={size} />
      </ActionIcon>
    </Tooltip>
  );
}
