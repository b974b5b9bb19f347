// What is shown of an answer: what it doesn't tell stays as it was told last.
import type { EvaluationView } from "../api/types";
import { useStore } from "./store";

/** What is asked for, one after the other: textures while something moves, sharp ones, then all that is read off beside the piece, and textures with smooth edges; at last those that the next movement begins with, which are not shown. */
export type Stage = "moving" | "sharp" | "whole" | "smooth" | "ahead";
/** The layer that the tiles and the histogram are of. */
let readOff = "";
/** The textures of the coats. */
const coatsOf = ({ base_color, orm, normal, more }: EvaluationView) => ({ base_color, orm, normal, more });
const named = (e: EvaluationView): string => JSON.stringify(coatsOf(e));
/** What the last rest showed with one sample a texel, and with smooth edges. */
let hard = "";
let smooth: { of: string; coats: ReturnType<typeof coatsOf> } | null = null;

/** An evaluation as it is shown: what is read off beside the piece stays until it is told anew, and edges that are smooth stay so where the coats are the same. */
export function shown(e: EvaluationView, stage: Stage, of: string): EvaluationView {
  if (stage === "smooth") {
    smooth = { of: hard, coats: coatsOf(e) };
    return e;
  }
  if (stage === "whole") [hard, readOff] = [named(e), of];
  const coats = smooth?.of === named(e) ? smooth.coats : {};
  if (stage === "whole") return { ...e, ...coats };
  const before = useStore.getState().evaluation;
  if (before === null) return { ...e, ...coats };
  const { tiles, histogram } = readOff === of ? before : e;
  // Lists that say the same stay the same ones: who shows them need not be drawn again while something moves.
  const channels = before.channels.join() === e.channels.join() ? before.channels : e.channels;
  return { ...e, ...coats, tiles, histogram, channels, tile_size: before.tile_size, coverage: before.coverage };
}
