// What of the textures is seen, and how large: found by drawing the piece small, each pixel telling where in the textures it lies and how many texels it would take there.
import {
  type BufferGeometry,
  type Camera,
  Mesh,
  NearestFilter,
  NoBlending,
  Scene,
  ShaderMaterial,
  Vector2,
  type WebGLRenderer,
  WebGLRenderTarget,
} from "three";

import type { PatchPlace } from "../api/types";

/** Texels of a patch along a side. */
export const SIDE = 256;
/** Side of the largest textures that there are patches of, in texels. */
const GREATEST = 8192;
/** How many times larger than a pixel a texel of the draft must be. */
const SEEN = 1.5;
/** How many times smaller than the view the picture is by which what is seen is found. */
const COARSER = 4;

const CARRY = /* glsl */ `
  varying vec2 vPlace;
  void main() {
    vPlace = uv;
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  }`;

/** Where in the textures a pixel lies, in 12 bits each, and how many texels a side they would need for it: 15 for every doubling. */
const TELL = /* glsl */ `
  uniform float sheets;
  varying vec2 vPlace;
  void main() {
    vec2 p = vPlace * vec2(1.0, sheets);
    float needed = -log2(max(max(length(dFdx(p)), length(dFdy(p))), 1e-6));
    vec2 at = floor(clamp(vPlace, 0.0, 0.9999) * 4096.0);
    vec4 bytes = vec4(floor(at.x / 16.0), mod(at.x, 16.0) * 16.0 + floor(at.y / 256.0), mod(at.y, 256.0), clamp(floor(needed * 15.0), 1.0, 255.0));
    gl_FragColor = bytes / 255.0;
  }`;

export interface Wanted {
  size: number;
  /** From the middle of the view outwards. */
  places: PatchPlace[];
}

export const keyOf = ({ sheet, x, y }: PatchPlace): string => `${sheet} ${x} ${y}`;

export class Seen {
  private readonly teller = new ShaderMaterial({
    vertexShader: CARRY,
    fragmentShader: TELL,
    uniforms: { sheets: { value: 1 } },
    blending: NoBlending,
  });
  private readonly scene = new Scene();
  private readonly target = new WebGLRenderTarget(1, 1, { magFilter: NearestFilter, minFilter: NearestFilter });

  constructor(private readonly renderer: WebGLRenderer) {}

  /** Which patches are seen, and of which size, if any are. */
  patches(
    piece: BufferGeometry,
    camera: Camera,
    { draft, sheets }: { draft: number; sheets: number },
    most: number,
  ): Wanted | null {
    const full = this.renderer.getDrawingBufferSize(new Vector2());
    const [width, height] = [Math.ceil(full.x / COARSER), Math.ceil(full.y / COARSER)];
    this.target.setSize(width, height);
    this.teller.uniforms["sheets"] = { value: sheets };
    const mesh = new Mesh(piece, this.teller);
    this.scene.add(mesh);
    this.renderer.setRenderTarget(this.target);
    this.renderer.clear();
    this.renderer.render(this.scene, camera);
    const bytes = new Uint8Array(width * height * 4);
    this.renderer.readRenderTargetPixels(this.target, 0, 0, width, height, bytes);
    this.renderer.setRenderTarget(null);
    this.scene.remove(mesh);

    const seen: { u: number; v: number; needed: number; off: number }[] = [];
    for (let i = 0; i < width * height; i++) {
      const [r = 0, g = 0, b = 0, a = 0] = bytes.subarray(4 * i, 4 * i + 4);
      const needed = 2 ** (a / 15) * COARSER;
      if (a === 0 || needed < draft * SEEN) continue;
      const off = Math.hypot((i % width) - width / 2, Math.floor(i / width) - height / 2);
      seen.push({ u: (r * 16 + (g >> 4)) / 4096, v: (((g & 15) << 8) | b) / 4096, needed, off });
    }
    if (seen.length === 0) return null;
    seen.sort((a, b) => a.needed - b.needed);
    const middle = seen[seen.length >> 1]?.needed ?? 0;
    seen.sort((a, b) => a.off - b.off);
    for (let size = Math.min(GREATEST, 2 ** Math.ceil(Math.log2(middle * 0.8))); size > draft; size /= 2) {
      const places = new Map<string, PatchPlace>();
      const along = size / SIDE;
      for (const { u, v } of seen) {
        const down = v * sheets;
        const place = { sheet: Math.floor(down), x: Math.floor(u * along), y: Math.floor((down % 1) * along) };
        places.set(keyOf(place), place);
      }
      if (places.size <= most) return { size, places: [...places.values()] };
    }
    return null;
  }

  dispose(): void {
    this.target.dispose();
    this.teller.dispose();
  }
}
