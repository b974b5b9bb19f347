// What a hand does on the piece, tried out while it does it: once a frame, however often the pointer moves.
import type { Edit } from "../api/types";
import { tryOut } from "../state/actions";

export class Trial {
  private asked = 0;

  /** Of the edits that make the piece show what is being done now; none of them, or nothing while nothing is. */
  constructor(private readonly edits: () => Edit[] | null) {}

  /** Shows it with the next frame. */
  soon(): void {
    if (this.asked !== 0) return;
    this.asked = requestAnimationFrame(() => {
      this.asked = 0;
      const edits = this.edits();
      if (edits) tryOut(...edits);
    });
  }

  /** Leaves it to what comes next. */
  stop(): void {
    cancelAnimationFrame(this.asked);
    this.asked = 0;
  }
}
