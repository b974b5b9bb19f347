// The page says when it is settled: nothing computing, everything drawn. Tests wait for `data-settled="yes"` on the body.
import { useEffect } from "react";

import { useStore } from "../state/store";

/** Draws nothing: on its own, so that what is drawn does not hang on how much is under way. */
export function Settled(): null {
  const pending = useStore((s) => s.pending);
  const opened = useStore((s) => s.project !== null);
  const improving = useStore((s) => s.evaluation?.improving ?? false);
  const working = useStore((s) => Object.keys(s.jobs).length > 0);
  const settled = pending === 0 && !improving && !working && opened;
  useEffect(() => {
    document.body.dataset["settled"] = settled ? "yes" : "no";
    return () => {
      delete document.body.dataset["settled"];
    };
  }, [settled]);
  return null;
}
