// A hand that does something on the piece: it hears of the pointer before the camera does, follows what is selected, and tries out what it does while it does it.
import type { Edit } from "../api/types";
import { type State, useStore } from "../state/store";
import { Trial } from "./trial";
import { firstToHear, Under, type View } from "./under";

export abstract class OnPiece {
  protected readonly under: Under;
  protected readonly trial = new Trial(() => this.tries());
  private readonly ended = new AbortController();
  private readonly leave: () => void;

  constructor(protected readonly view: View) {
    this.under = new Under(view);
    firstToHear(
      view.canvas,
      { down: (event) => this.down(event), move: (event) => this.move(event), up: (event) => this.up(event) },
      this.signal,
    );
    this.leave = useStore.subscribe((now, before) => this.sync(now, before));
  }

  /** Aborted when the hand is taken off the view. */
  protected get signal(): AbortSignal {
    return this.ended.signal;
  }

  dispose(): void {
    this.ended.abort();
    this.trial.stop();
    this.leave();
  }

  protected abstract down(event: PointerEvent): void;
  protected abstract move(event: PointerEvent): void;
  protected abstract up(event: PointerEvent): void;
  /** What has changed in what is selected, shown and set. */
  protected abstract sync(now: State, before: State): void;
  /** The edits that make the piece show what is being done now; nothing while nothing is. */
  protected abstract tries(): Edit[] | null;
}
