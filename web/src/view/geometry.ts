// The piece as the view draws it, from the server's buffers.
import { BufferAttribute, BufferGeometry } from "three";

/** Layout: vertex count, triangle count (u32), then f32 positions, normals, tangents (4), UVs, and u32 indices. */
export function pieceGeometry(buffer: ArrayBuffer): BufferGeometry {
  const [vertices = 0, triangles = 0] = new Uint32Array(buffer, 0, 2);
  let at = 8;
  const floats = (per: number) => {
    const view = new Float32Array(buffer, at, vertices * per);
    at += view.byteLength;
    return new BufferAttribute(view, per);
  };
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", floats(3));
  geometry.setAttribute("normal", floats(3));
  geometry.setAttribute("tangent", floats(4));
  geometry.setAttribute("uv", floats(2));
  geometry.setIndex(new BufferAttribute(new Uint32Array(buffer, at, triangles * 3), 1));
  geometry.computeBoundingSphere();
  geometry.computeBoundingBox();
  return geometry;
}

/** The most triangles that a piece is split into to be moved by its relief. */
const MOST = 320_000;
const OF = { position: 3, normal: 3, tangent: 4, uv: 2 } as const;

/**
 * The piece in as many triangles as may be, each cut into four again and again, with the way in which its relief moves each vertex: the mean of the normals of all that lie in
 * one place, so that hard edges stay closed.
 */
export function finer(geometry: BufferGeometry): BufferGeometry {
  let index = Array.from(geometry.getIndex()?.array ?? []);
  const all = Object.fromEntries(Object.keys(OF).map((name) => [name, Array.from(geometry.getAttribute(name).array)])) as Record<keyof typeof OF, number[]>;
  while (index.length * 4 <= MOST * 3) index = quartered(index, all);
  const out = new BufferGeometry();
  for (const [name, per] of Object.entries(OF)) out.setAttribute(name, new BufferAttribute(new Float32Array(all[name as keyof typeof OF]), per));
  out.setAttribute("outward", new BufferAttribute(outward(all.position, all.normal), 3));
  out.setIndex(new BufferAttribute(new Uint32Array(index), 1));
  out.boundingSphere = geometry.boundingSphere;
  out.boundingBox = geometry.boundingBox;
  return out;
}

function quartered(index: number[], all: Record<keyof typeof OF, number[]>): number[] {
  const middles = new Map<number, number>();
  const middle = (a: number, b: number): number => {
    const count = all.position.length / 3;
    const key = Math.min(a, b) * 0x400_0000 + Math.max(a, b);
    const known = middles.get(key);
    if (known !== undefined) return known;
    for (const [name, per] of Object.entries(OF)) {
      const values = all[name as keyof typeof OF];
      for (let k = 0; k < per; k++) values.push(((values[a * per + k] ?? 0) + (values[b * per + k] ?? 0)) / 2);
    }
    middles.set(key, count);
    return count;
  };
  const out: number[] = [];
  for (let t = 0; t < index.length; t += 3) {
    const [a = 0, b = 0, c = 0] = index.slice(t, t + 3);
    const [ab, bc, ca] = [middle(a, b), middle(b, c), middle(c, a)];
    out.push(a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca);
  }
  return out;
}

function outward(position: number[], normal: number[]): Float32Array {
  const places = new Map<string, [number, number, number]>();
  const keyOf = (i: number) => [0, 1, 2].map((k) => Math.round((position[3 * i + k] ?? 0) * 1000)).join();
  const count = position.length / 3;
  const keys = Array.from({ length: count }, (_, i) => keyOf(i));
  keys.forEach((key, i) => {
    const sum = places.get(key) ?? [0, 0, 0];
    for (const k of [0, 1, 2] as const) sum[k] += normal[3 * i + k] ?? 0;
    places.set(key, sum);
  });
  const out = new Float32Array(position.length);
  keys.forEach((key, i) => {
    const sum = places.get(key) ?? [0, 1, 0];
    const length = Math.hypot(...sum) || 1;
    sum.forEach((c, k) => { out[3 * i + k] = c / length; });
  });
  return out;
}
