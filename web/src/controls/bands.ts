// A layer's colours as a cut through it: one band for each, the top one at the top.

/** Colours come from the bottom up; a layer that lays none down is grey. */
export function bands(colors: string[]): string {
  if (colors.length === 0) return "var(--ink-soft)";
  const share = 100 / colors.length;
  const stops = [...colors].reverse().map((color, i) => `${color} ${i * share}% ${(i + 1) * share}%`);
  return `linear-gradient(${stops.join(", ")})`;
}
