// What is looked at so closely that a texel of the draft is seen: patches of larger textures, laid over the draft's where it is at rest.
import {
  type BufferGeometry,
  type Camera,
  DataArrayTexture,
  DataTexture,
  LinearFilter,
  MeshStandardMaterial,
  NoColorSpace,
  RGBAFormat,
  ShaderChunk,
  SRGBColorSpace,
  UnsignedByteType,
  type WebGLRenderer,
} from "three";

import { api, Refusal } from "../api/client";
import type { PatchPlace } from "../api/types";
import { say, triedEdits } from "../state/actions";
import { page, resting } from "../state/evaluate";
import { comparing, type State, useStore } from "../state/store";
import { keyOf, Seen, SIDE, type Wanted } from "./seen";

/** Patches that are held at most. */
const SLOTS = 48;
/** Patches that are asked for in one go: so that the first are seen soon. */
const AT_ONCE = 4;

/** How long nothing may have moved before it is looked at closely, in ms. */
const STILL = 250;

/** What patches are of: of another state, all of them are others. Beside a snapshot, which has none, there are none. */
const stateOf = (s: State): string => {
  const { project, evaluation } = s;
  return `${project?.id ?? 0} ${project?.revision ?? 0} ${project?.document.draft_size === evaluation?.size} ${evaluation?.provisional === true} ${triedEdits().length > 0} ${comparing(s) !== null}`;
};

const CLOSER = /* glsl */ `
  uniform sampler2DArray nearColor;
  uniform sampler2DArray nearOrm;
  uniform sampler2DArray nearNormal;
  uniform sampler2D nearSlots;
  // Patches along a side of a sheet, sheets, texels of a patch, and around it.
  uniform vec4 nearLaid;
  vec4 closer(sampler2D whole, sampler2DArray patches, vec2 uv) {
    vec4 far = texture2D(whole, uv);
    if (nearLaid.x == 0.0) return far;
    vec2 at = uv * nearLaid.x * vec2(1.0, nearLaid.y);
    float texels = nearLaid.z * max(length(dFdx(at)), length(dFdy(at)));
    float slot = floor(texelFetch(nearSlots, ivec2(floor(at)), 0).r * 255.0 + 0.5);
    if (slot == 0.0) return far;
    vec2 within = (fract(at) * nearLaid.z + nearLaid.w) / (nearLaid.z + 2.0 * nearLaid.w);
    // Patches have no smaller sizes: where they would glitter, the draft is fine enough.
    return mix(textureLod(patches, vec3(within, slot - 1.0), 0.0), far, smoothstep(1.5, 3.0, texels));
  }
`;

const OF = {
  map: "nearColor",
  roughnessMap: "nearOrm",
  metalnessMap: "nearOrm",
  aoMap: "nearOrm",
  normalMap: "nearNormal",
};
const CHUNKS = [
  "map_fragment",
  "roughnessmap_fragment",
  "metalnessmap_fragment",
  "normal_fragment_maps",
  "aomap_fragment",
] as const;

function plane(srgb: boolean): DataArrayTexture {
  const texture = new DataArrayTexture(new Uint8Array(4), 1, 1, 1);
  texture.format = RGBAFormat;
  texture.type = UnsignedByteType;
  texture.colorSpace = srgb ? SRGBColorSpace : NoColorSpace;
  texture.minFilter = texture.magFilter = LinearFilter;
  texture.needsUpdate = true;
  return texture;
}

export class Near {
  private readonly planes = [plane(true), plane(false), plane(false)] as const;
  private readonly slots = new DataTexture(new Uint8Array(4), 1, 1, RGBAFormat, UnsignedByteType);
  private readonly uniforms = {
    nearColor: { value: this.planes[0] },
    nearOrm: { value: this.planes[1] },
    nearNormal: { value: this.planes[2] },
    nearSlots: { value: this.slots },
    nearLaid: { value: [0, 1, SIDE, 4] },
  };
  private readonly seen: Seen;
  /** Which slot each patch lies in, the one that was wanted least lately first. */
  private held = new Map<string, number>();
  private size = 0;
  private sheets = 1;
  /** The state that the patches are of. */
  private of = "";
  private asking = false;
  private rest = 0;

  constructor(
    renderer: WebGLRenderer,
    /** Told how many patches are laid over the draft. */
    private readonly changed: (count: number) => void,
    /** Told how many the view asks for. */
    private readonly asked: (count: number) => void,
  ) {
    this.slots.needsUpdate = true;
    this.seen = new Seen(renderer);
  }

  /** Lets a lit material show what is held in the place of its own textures. */
  cover(material: MeshStandardMaterial): MeshStandardMaterial {
    const [before, key] = [material.onBeforeCompile.bind(material), material.customProgramCacheKey()];
    material.onBeforeCompile = (shader, renderer) => {
      before(shader, renderer);
      Object.assign(shader.uniforms, this.uniforms);
      const closer = (chunk: string) =>
        chunk.replace(/texture2D\( (\w+), (v\w+Uv) \)/g, (all, map: string, uv: string) =>
          map in OF ? `closer( ${map}, ${OF[map as keyof typeof OF]}, ${uv} )` : all,
        );
      shader.fragmentShader = CHUNKS.reduce(
        (text, name) => text.replace(`#include <${name}>`, closer(ShaderChunk[name])),
        shader.fragmentShader.replace("#include <common>", `#include <common>\n${CLOSER}`),
      );
    };
    material.customProgramCacheKey = () => `${key} near`;
    return material;
  }

  /** Lets go of what is of another state than this one. */
  keep(s: State): void {
    const of = stateOf(s);
    if (of === this.of) return;
    this.of = of;
    this.clear();
  }

  private clear(): void {
    this.held.clear();
    this.uniforms.nearLaid.value[0] = this.size = 0;
    this.changed(0);
  }

  /** Looks, once nothing has moved for a moment, whether something is seen so closely that it should be sharper. */
  soon(piece: BufferGeometry, camera: Camera): void {
    window.clearTimeout(this.rest);
    this.rest = window.setTimeout(() => {
      const s = useStore.getState();
      const { project, evaluation: e } = s;
      this.keep(s);
      if (!project || !e || s.shown !== "lit" || comparing(s) !== null) return;
      if (!resting() || e.provisional) {
        this.soon(piece, camera);
        return;
      }
      this.look(piece, camera, { id: project.id, revision: project.revision, draft: e.size, sheets: e.sheets }).catch(
        (error: unknown) => {
          // What was overtaken is asked for again at the next rest.
          if (!(error instanceof Refusal && error.kind === "cancelled")) say(error);
        },
      );
    }, STILL);
  }

  /** Asks for what is seen too large at the draft's size and not held yet. */
  private async look(
    piece: BufferGeometry,
    camera: Camera,
    from: { id: number; revision: number; draft: number; sheets: number },
  ): Promise<void> {
    if (this.asking) return;
    this.asking = true;
    try {
      const [wanted, of] = [this.seen.patches(piece, camera, from, SLOTS), this.of];
      this.asked(wanted?.places.length ?? 0);
      if (!wanted) return;
      const { size } = wanted;
      const missing = wanted.places.filter((p) => size !== this.size || !this.held.has(keyOf(p)));
      const at = camera.matrixWorld.clone();
      for (let k = 0; k < missing.length; k += AT_ONCE) {
        if (!resting() || of !== this.of || !camera.matrixWorld.equals(at)) return;
        const places = missing.slice(k, k + AT_ONCE);
        const { view, bytes } = await api.patches(from.id, { page, size, places });
        if (!resting() || of !== this.of || view.revision !== from.revision) return;
        this.lay(wanted, from.sheets, places, view.side, view.margin, bytes);
      }
    } finally {
      this.asking = false;
    }
  }

  /** Lays some patches over the draft, in the place of those that are not wanted any more. */
  private lay(
    { size, places }: Wanted,
    sheets: number,
    some: PatchPlace[],
    side: number,
    margin: number,
    bytes: Uint8Array<ArrayBuffer>,
  ): void {
    const whole = side + 2 * margin;
    if (this.planes[0].image.width !== whole) {
      for (const p of this.planes) {
        p.dispose();
        p.image = { data: new Uint8Array(whole * whole * 4 * SLOTS), width: whole, height: whole, depth: SLOTS };
        p.needsUpdate = true;
      }
    }
    if (size !== this.size || sheets !== this.sheets) this.held.clear();
    [this.size, this.sheets] = [size, sheets];
    const keep = new Set(places.map(keyOf));
    const free = new Set(Array.from({ length: SLOTS }, (_, k) => k));
    for (const slot of this.held.values()) free.delete(slot);
    const one = whole * whole * 4;
    some.forEach((place, k) => {
      const old = [...this.held].find(([key]) => !keep.has(key));
      const slot = free.values().next().value ?? old?.[1];
      if (slot === undefined) return;
      if (!free.delete(slot) && old) this.held.delete(old[0]);
      this.held.set(keyOf(place), slot);
      this.planes.forEach((p, m, all) => {
        const data = p.image.data as Uint8Array;
        const from = (k * all.length + m) * one;
        data.set(bytes.subarray(from, from + one), slot * one);
        p.addLayerUpdate(slot);
        p.needsUpdate = true;
      });
    });
    this.tell(side, margin);
  }

  /** Writes down which slot each patch lies in. */
  private tell(side: number, margin: number): void {
    const along = this.size / side;
    const data = new Uint8Array(along * along * this.sheets * 4);
    for (const [key, slot] of this.held) {
      const [sheet = 0, x = 0, y = 0] = key.split(" ").map(Number);
      data[((sheet * along + y) * along + x) * 4] = slot + 1;
    }
    if (this.slots.image.width !== along || this.slots.image.height !== along * this.sheets) this.slots.dispose();
    this.slots.image = { data, width: along, height: along * this.sheets };
    this.slots.needsUpdate = true;
    this.uniforms.nearLaid.value = [along, this.sheets, side, margin];
    this.changed(this.held.size);
  }

  dispose(): void {
    for (const texture of [...this.planes, this.slots]) texture.dispose();
    window.clearTimeout(this.rest);
    this.seen.dispose();
  }
}
