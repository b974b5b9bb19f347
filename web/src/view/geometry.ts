// The piece as the view draws it, from the server's buffers.
import { BufferAttribute, BufferGeometry } from "three";

/** Layout: vertex count, triangle count (u32), then f32 positions, normals, tangents (4), UVs, of a finer one the ways in which relief moves it, and u32 indices. */
export function pieceGeometry(buffer: ArrayBuffer, fine = false): BufferGeometry {
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
  if (fine) geometry.setAttribute("outward", floats(3));
  geometry.setIndex(new BufferAttribute(new Uint32Array(buffer, at, triangles * 3), 1));
  geometry.computeBoundingSphere();
  geometry.computeBoundingBox();
  return geometry;
}
