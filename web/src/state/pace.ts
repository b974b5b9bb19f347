// The size of what is shown while something moves: the greatest that answers in time, by how long the last answers took.

/** An answer should come within so many ms; in less than a quarter of that, one of twice the size does too. */
const IN_TIME = 80;
const LEAST = 256;

let size = LEAST;
/** The greatest that may be tried until the hand is off: what took too long once is not tried again. */
let greatest = Infinity;

export const sizeInTime = (draft: number): number => Math.min(draft, size);

/** An answer has come, after so many ms. */
export function answered(took: number, draft: number): void {
  if (took > IN_TIME && size > LEAST) greatest = size = size / 2;
  else if (took < IN_TIME / 4 && size * 2 <= Math.min(draft, greatest)) size *= 2;
}

/** The hand is off. */
export function letGo(): void {
  greatest = Infinity;
}
