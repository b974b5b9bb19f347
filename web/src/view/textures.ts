// Textures that follow addresses: a slot fetches its pixels when its address changes and keeps the old ones until then.
import {
  DataTexture,
  LinearFilter,
  LinearMipmapLinearFilter,
  NearestFilter,
  NoColorSpace,
  RedFormat,
  RGBAFormat,
  SRGBColorSpace,
  UnsignedByteType,
} from "three";

import { pixels } from "../api/pixels";
import { plain } from "../state/store";

/** The most texels along a side that this machine draws. */
export const most = { texels: 8192 };

/** How many times smaller a square of that size is shown, so that all sheets fit into one texture. */
export function shrink(size: number, sheets: number): number {
  let by = 1;
  while ((size / by) * sheets > most.texels) by *= 2;
  return by;
}

/** Every `by`-th texel along both sides; the mean of those between, but for numbers that must not be mixed. */
function shrunk(
  data: Uint8Array<ArrayBuffer>,
  width: number,
  height: number,
  channels: number,
  by: number,
  hard: boolean,
): Uint8Array<ArrayBuffer> {
  const [w, h, reach] = [width / by, height / by, hard ? 1 : by];
  const out = new Uint8Array(w * h * channels);
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      for (let c = 0; c < channels; c++) {
        let sum = 0;
        for (let k = 0; k < reach * reach; k++) {
          sum += data[((y * by + Math.floor(k / reach)) * width + x * by + (k % reach)) * channels + c] ?? 0;
        }
        out[(y * w + x) * channels + c] = Math.round(sum / (reach * reach));
      }
    }
  }
  return out;
}

export class Slot {
  readonly texture: DataTexture;
  private address: string | null = null;
  private wanted: string | null = null;

  constructor(
    private readonly channels: 1 | 4,
    private readonly srgb: boolean,
    private readonly hard = false,
  ) {
    this.texture = this.plain();
  }

  /** A texel of grey. */
  private plain(): DataTexture {
    const texture = new DataTexture(
      new Uint8Array(this.channels).fill(128),
      1,
      1,
      this.channels === 4 ? RGBAFormat : RedFormat,
      UnsignedByteType,
    );
    texture.colorSpace = this.srgb ? SRGBColorSpace : NoColorSpace;
    texture.magFilter = this.hard ? NearestFilter : LinearFilter;
    texture.minFilter = this.hard ? NearestFilter : plain ? LinearFilter : LinearMipmapLinearFilter;
    texture.generateMipmaps = !plain && !this.hard;
    texture.anisotropy = plain ? 1 : 8;
    texture.unpackAlignment = 1;
    texture.needsUpdate = true;
    return texture;
  }

  /** Fetches what lies at `address`. True when there is something new to draw; false when it was there already or has been overtaken. */
  async follow(address: string, size: number, sheets: number): Promise<boolean> {
    this.wanted = address;
    if (address === this.address) return false;
    let data = await pixels(address);
    if (this.wanted !== address) return false;
    this.address = address;
    const by = shrink(size, sheets);
    if (by > 1) {
      data = shrunk(data, size, size * sheets, this.channels, by, this.hard);
      size /= by;
    }
    // The texture itself stays, so that no material is made anew; of another size it is laid out anew.
    if (this.texture.image.width !== size || this.texture.image.height !== size * sheets) this.texture.dispose();
    this.texture.image = { data, width: size, height: size * sheets };
    this.texture.needsUpdate = true;
    return true;
  }

  /** The channels of the texel at a place of the texture. */
  texelAt(u: number, v: number): number[] {
    const { data, width, height } = this.texture.image;
    const x = Math.min(width - 1, Math.max(0, Math.floor(u * width)));
    const y = Math.min(height - 1, Math.max(0, Math.floor(v * height)));
    const at = (y * width + x) * this.channels;
    return [...((data as Uint8Array | null)?.subarray(at, at + this.channels) ?? [])];
  }

  dispose(): void {
    this.texture.dispose();
  }
}
