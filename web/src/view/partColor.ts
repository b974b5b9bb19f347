// The colours that tell parts apart, in the list as on the piece.

/** Twelve colours far apart from one to the next; parts beyond that repeat. */
export function partColor(part: number): string {
  const hue = (part * 150 + 200) % 360;
  const light = part % 12 < 6 ? 62 : 48;
  return `hsl(${hue}, 38%, ${light}%)`;
}
