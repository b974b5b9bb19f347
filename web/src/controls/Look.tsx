// A small picture of a state that is not kept: a variant, or one of six to choose from.
import { useEffect, useState } from "react";

import { api } from "../api/client";
import type { Edit, StillSettings } from "../api/types";
import { useStore } from "../state/store";

/** They are made one after the other, so that the first is there early. */
let queue: Promise<unknown> = Promise.resolve();

interface Props {
  /** The state that is begun with; the present one if none is named. */
  at?: number;
  /** What leads from there to what is shown. */
  edits: Edit[];
  still: StillSettings | null;
  alt: string;
}

export function Look({ at, edits, still, alt }: Props) {
  const project = useStore((s) => s.project?.id);
  const revision = useStore((s) => s.project?.revision);
  const [shown, setShown] = useState<string | null>(null);
  const [failed, setFailed] = useState("");
  const request = { edits, still, ...(at === undefined ? {} : { at }) };
  const asked = JSON.stringify(request);
  useEffect(() => {
    if (project === undefined || still === null) return;
    const stop = new AbortController();
    const take = async () => {
      if (stop.signal.aborted) return;
      const blob = await api.look(project, { ...request, still }, stop.signal);
      if (stop.signal.aborted) return;
      setShown(URL.createObjectURL(blob));
      setFailed("");
    };
    const fail = (error: unknown) => {
      if (!stop.signal.aborted) setFailed(error instanceof Error ? error.message : String(error));
    };
    queue = queue.then(take).catch(fail);
    return () => stop.abort();
    // `asked` says all that the edits and the still say.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [project, revision, asked]);
  const ratio = still ? `${still.width} / ${still.height}` : "1";
  return shown === null ? (
    <div className="look waiting" style={{ aspectRatio: ratio }}>
      {failed || "being made …"}
    </div>
  ) : (
    // What was read needs its address no longer; before that it must not go.
    <img
      className="look"
      src={shown}
      alt={alt}
      style={{ aspectRatio: ratio }}
      onLoad={() => URL.revokeObjectURL(shown)}
    />
  );
}
