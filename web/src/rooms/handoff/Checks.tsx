// The check list before writing: what would look wrong elsewhere, with the way to where it is mended.
import { Button } from "@mantine/core";
import { Link } from "wouter";

import type { Check } from "../../api/types";
import { ROOM_NAMES, type Room } from "../../shell/rooms";
import { useStore } from "../../state/store";

export function Checks({ checks }: { checks: Check[] }) {
  const id = useStore((s) => s.project?.id ?? 0);
  if (checks.length === 0) return <p className="soft check-ok">Nothing stands against it.</p>;
  const sorted = [...checks].sort((a, b) => Number(b.serious) - Number(a.serious));
  return (
    <div role="list" aria-label="Check list" className="checks">
      {sorted.map((c) => (
        <div role="listitem" key={c.what} className={c.serious ? "finding serious" : "finding"}>
          <b>{c.what}</b>
          <small>{c.remedy}</small>
          {c.room !== "handoff" && (
            <Button component={Link} size="compact-xs" variant="subtle" href={`/p/${id}/${c.room}${location.search}`}>
              Go to {ROOM_NAMES[c.room as Room]}
            </Button>
          )}
        </div>
      ))}
    </div>
  );
}
