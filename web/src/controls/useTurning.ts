// A value under the hand: what it stands at while it is dragged, tried as it goes, and kept when it is let go.
import type { Edit } from "../api/types";
import { commit, tryOut } from "../state/actions";
import { useDraft } from "./useDraft";

export interface Turning<T> {
  now: T;
  attempt: (value: T) => void;
  keep: (value: T) => void;
}

/** `live`: whether the piece follows before the value is let go. */
export function useTurning<T>(value: T, edit: (value: T) => Edit, live = true): Turning<T> {
  const [now, setNow] = useDraft(value, (v) => v);
  return {
    now,
    attempt: (next) => {
      setNow(next);
      if (live) tryOut(edit(next));
    },
    keep: (next) => {
      setNow(next);
      void commit(edit(next)).then((kept) => kept === null && setNow(value));
    },
  };
}
