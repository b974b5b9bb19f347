// The piece as the view draws it: the server's buffers, with triangles brought together by part so that each can be drawn in its own colour.
import { BufferAttribute, BufferGeometry } from "three";

export interface PieceGeometry {
  geometry: BufferGeometry;
  /** The part of every triangle, in the order of drawing. */
  parts: Uint16Array;
}

/** Layout: vertex count, triangle count (u32), then f32 positions, normals, tangents (4), UVs, u32 indices, u16 part of each triangle. */
export function pieceGeometry(buffer: ArrayBuffer): PieceGeometry {
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
  const indices = new Uint32Array(buffer, at, triangles * 3);
  at += indices.byteLength;
  const partOf = new Uint16Array(buffer, at, triangles);
  const order = Uint32Array.from({ length: triangles }, (_, i) => i).sort((a, b) => (partOf[a] ?? 0) - (partOf[b] ?? 0) || a - b);
  const sorted = new Uint32Array(triangles * 3);
  const parts = new Uint16Array(triangles);
  order.forEach((triangle, place) => {
    sorted.set(indices.subarray(triangle * 3, triangle * 3 + 3), place * 3);
    const part = partOf[triangle] ?? 0;
    parts[place] = part;
    const last = geometry.groups.at(-1);
    if (last?.materialIndex === part) last.count += 3;
    else geometry.addGroup(place * 3, 3, part);
  });
  geometry.setIndex(new BufferAttribute(sorted, 1));
  geometry.computeBoundingSphere();
  return { geometry, parts };
}
