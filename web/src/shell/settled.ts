// The page says when it is settled: nothing computing, everything drawn. Tests wait for `data-settled="yes"` on the body.
import { useEffect } from "react";

import { useStore } from "../state/store";

export function useSettled(): void {
  const pending = useStore((s) => s.pending);
  const project = useStore((s) => s.project);
  const improving = useStore((s) => s.evaluation?.improving ?? false);
  const working = useStore((s) => Object.keys(s.jobs).length > 0);
  const settled = pending === 0 && !improving && !working && project !== null;
  useEffect(() => {
    document.body.dataset["settled"] = settled ? "yes" : "no";
    return () => {
      delete document.body.dataset["settled"];
    };
  }, [settled]);
}
