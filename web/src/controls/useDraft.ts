// What is being typed or dragged, until the value itself changes: then the draft starts anew from it, without losing the focus.
import { useState } from "react";

export function useDraft<V, D>(value: V, begin: (value: V) => D): [D, (draft: D) => void] {
  const [state, setState] = useState({ value, draft: begin(value) });
  if (state.value !== value) {
    const fresh = { value, draft: begin(value) };
    setState(fresh);
    return [fresh.draft, (draft) => setState({ value, draft })];
  }
  return [state.draft, (draft) => setState({ value, draft })];
}
