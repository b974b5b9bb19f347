// Pixels by address. What an address names never changes, so nothing is fetched again while it is held; what was used least lately is let go.
import { api } from "./client";
import type { Over } from "./types";

type Bytes = Uint8Array<ArrayBuffer>;

/** Bytes that are held at most. */
const MOST = 128 << 20;

/** In the order in which they were used last. */
const held = new Map<string, Bytes>();
let weight = 0;

export function hold(address: string, bytes: Bytes): void {
  weight += bytes.length - (held.get(address)?.length ?? 0);
  held.delete(address);
  held.set(address, bytes);
  for (const [oldest, some] of held) {
    if (weight <= MOST || oldest === address) break;
    held.delete(oldest);
    weight -= some.length;
  }
}

/** Holds what others make with some runs of bytes in place of their own. Where those are let go of meanwhile it is fetched whole when it is asked for. */
export function holdOver(address: string, over: Over, bytes: Uint8Array<ArrayBuffer>): void {
  const now = held.get(over.address)?.slice();
  if (!now) return;
  let from = 0;
  for (const [start, length] of over.runs) {
    now.set(bytes.subarray(from, from + length), start);
    from += length;
  }
  hold(address, now);
}

/** The addresses of what is held, those that were used last at the end. */
export const addresses = (): string[] => [...held.keys()];

/** What lies at an address: at hand, or fetched. */
export async function pixels(address: string): Promise<Bytes> {
  const bytes = held.get(address) ?? (await api.pixels(address));
  hold(address, bytes);
  return bytes;
}
