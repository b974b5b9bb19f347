// Files that are dropped on an element from outside the page.
import { type DragEvent, useState } from "react";

import { dropped } from "../api/bundle";
import { say } from "../state/actions";

/** What makes an element take files, and whether some hang over it; `take` is given all that were dropped, those of folders too. */
export function useDropped(take: (files: Awaited<ReturnType<typeof dropped>>) => void) {
  const [over, setOver] = useState(false);
  const takes = {
    onDragOver: (e: DragEvent) => {
      e.preventDefault();
      setOver(true);
    },
    onDragLeave: () => setOver(false),
    onDrop: (e: DragEvent) => {
      e.preventDefault();
      setOver(false);
      dropped(e.dataTransfer).then(take, say);
    },
  };
  return { over, takes };
}
