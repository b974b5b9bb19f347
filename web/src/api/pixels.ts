// Pixels by address. What an address names never changes, so nothing is fetched again while it is held; what was used least lately is let go.
import { api } from "./client";

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

/** The addresses of what is held. */
export const addresses = (): string[] => [...held.keys()];

/** What lies at an address: at hand, or fetched. */
export async function pixels(address: string): Promise<Bytes> {
  const bytes = held.get(address) ?? (await api.pixels(address));
  hold(address, bytes);
  return bytes;
}
