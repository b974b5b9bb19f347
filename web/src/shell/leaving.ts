// A page that is closed with something unsaved says so: the browser asks.
import { useEffect } from "react";

import { somethingUnsaved } from "../state/actions";

export function useLeaving(): void {
  useEffect(() => {
    const ask = (e: BeforeUnloadEvent) => {
      // Words that are being written are kept when their field is left; here it is.
      if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
      if (somethingUnsaved()) e.preventDefault();
    };
    window.addEventListener("beforeunload", ask);
    return () => window.removeEventListener("beforeunload", ask);
  }, []);
}
