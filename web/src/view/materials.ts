// Materials of the view: the lit one, one that shows numbers as they are, and one that tells parts apart.
import {
  Color,
  DataTexture,
  DoubleSide,
  LinearSRGBColorSpace,
  MeshPhysicalMaterial,
  type MeshPhysicalMaterialParameters,
  MeshStandardMaterial,
  ShaderMaterial,
  SRGBColorSpace,
  type Texture,
  Vector2,
} from "three";

import type { TintView } from "../api/types";

/** A texture of further channels, packed as glTF wants it, and what its values are multiplied by. */
export interface Packed {
  map: string;
  factor: number;
  texture: Texture;
}

/** The lit material, with those lobes alone that the piece has: each costs a program of its own. */
export function litMaterial(
  baseColor: Texture,
  orm: Texture,
  normal: Texture,
  more: Packed[],
  seeThrough: boolean,
  tint: TintView | null,
): MeshStandardMaterial {
  const ordinary = {
    map: baseColor,
    aoMap: orm,
    roughnessMap: orm,
    metalnessMap: orm,
    normalMap: normal,
    normalScale: new Vector2(1, 1),
    roughness: 1,
    metalness: 1,
    // Both sides, since one looks through to the far one.
    ...(seeThrough ? { transparent: true, side: DoubleSide, alphaTest: 0.004 } : {}),
  };
  const glow = more.find((m) => m.map === "emissive");
  const emissive = glow
    ? { emissive: new Color(1, 1, 1), emissiveMap: glow.texture, emissiveIntensity: glow.factor }
    : {};
  const lobes = more.filter((m) => m.map !== "emissive");
  if (lobes.length === 0) return new MeshStandardMaterial({ ...ordinary, ...emissive });
  const body =
    tint && lobes.some((m) => m.map === "transmission")
      ? {
          attenuationColor: new Color().setRGB(...tint.color, LinearSRGBColorSpace),
          attenuationDistance: tint.distance,
        }
      : {};
  return new MeshPhysicalMaterial(Object.assign({ ...ordinary, ...emissive, ...body }, ...lobes.map(lobe)));
}

/** Lets a height move the surface: along the mean normal of each place, so that hard edges don't gape. */
export function move(
  material: MeshStandardMaterial,
  height: Texture,
  [low, high]: [number, number],
): MeshStandardMaterial {
  material.displacementMap = height;
  material.displacementScale = high - low;
  material.displacementBias = low;
  material.onBeforeCompile = (shader) => {
    shader.vertexShader = `attribute vec3 outward;\n${shader.vertexShader}`.replace(
      "#include <displacementmap_vertex>",
      "transformed += outward * (texture2D(displacementMap, vDisplacementMapUv).x * displacementScale + displacementBias);",
    );
  };
  material.customProgramCacheKey = () => "moved";
  return material;
}

function lobe({ map, factor, texture }: Packed): MeshPhysicalMaterialParameters {
  switch (map) {
    case "clearcoat":
      return { clearcoat: 1, clearcoatMap: texture, clearcoatRoughness: 1, clearcoatRoughnessMap: texture };
    case "clearcoat_normal":
      return { clearcoatNormalMap: texture };
    case "sheen":
      return {
        sheen: 1,
        sheenColor: new Color(1, 1, 1),
        sheenColorMap: texture,
        sheenRoughness: 1,
        sheenRoughnessMap: texture,
      };
    case "anisotropy":
      return { anisotropy: 1, anisotropyMap: texture };
    case "specular":
      return {
        ior: factor,
        specularIntensity: 1,
        specularIntensityMap: texture,
        specularColor: new Color(1, 1, 1),
        specularColorMap: texture,
      };
    case "transmission":
      return {
        transmission: 1,
        transmissionMap: texture,
        ...(factor > 0 ? { thickness: factor, thicknessMap: texture } : {}),
      };
    default:
      return {};
  }
}

const CARRY_UV = /* glsl */ `
  varying vec2 vPlace;
  void main() {
    vPlace = uv;
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  }`;

const SHOW = /* glsl */ `
  uniform sampler2D pixels;
  uniform vec4 pick;
  varying vec2 vPlace;
  void main() {
    vec4 texel = texture2D(pixels, vPlace);
    gl_FragColor = vec4(pick.w > 0.0 ? vec3(dot(texel.rgb, pick.rgb)) : texel.rgb, 1.0);
  }`;

/** Shows bytes unlit and uncorrected. `pick` is a channel, or null for colour. */
export function plainMaterial(pixels: Texture, pick: 0 | 1 | 2 | null): ShaderMaterial {
  const weights = pick === null ? [0, 0, 0, 0] : [0, 1, 2].map((i) => Number(i === pick)).concat(1);
  return new ShaderMaterial({
    vertexShader: CARRY_UV,
    fragmentShader: SHOW,
    uniforms: { pixels: { value: pixels }, pick: { value: weights } },
  });
}

const CARRY_BOTH = /* glsl */ `
  varying vec3 vFacing;
  varying vec2 vPlace;
  void main() {
    vPlace = uv;
    vFacing = normalMatrix * normal;
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  }`;

const SHADE_PARTS = /* glsl */ `
  uniform sampler2D parts;
  uniform sampler2D tints;
  uniform float picked;
  varying vec3 vFacing;
  varying vec2 vPlace;
  void main() {
    float part = floor(texture2D(parts, vPlace).r * 255.0 + 0.5);
    vec3 tint = texture2D(tints, vec2((part + 0.5) / 256.0, 0.5)).rgb;
    if (part > 254.5 || (picked >= 0.0 && abs(part - picked) > 0.5)) tint = vec3(0.62, 0.61, 0.6);
    vec3 n = normalize(vFacing);
    float light = 0.55 + 0.45 * max(dot(n, normalize(vec3(-0.4, 0.7, 0.6))), 0.0) - 0.12 * (1.0 - abs(n.z));
    gl_FragColor = vec4(tint * light, 1.0);
  }`;

/** Colours for shells, which have none of their own: neighbours in number lie far apart in hue. */
export const SHELL_COLORS = Array.from({ length: 255 }, (_, i) => {
  const color = new Color().setHSL(((i * 137.5) % 360) / 360, 0.32, i % 2 === 0 ? 0.62 : 0.48);
  return `#${color.getHexString(SRGBColorSpace)}`;
});

/** Shows each part in its colour; when one is picked, the others step back. Bytes go out uncorrected, so the tints are in sRGB. */
export function partsMaterial(parts: Texture, colors: string[], picked: number | null): ShaderMaterial {
  const tints = new Uint8Array(256 * 4).fill(255);
  colors.slice(0, 255).forEach((hex, i) => {
    for (let c = 0; c < 3; c++) tints[4 * i + c] = parseInt(hex.slice(1 + 2 * c, 3 + 2 * c), 16);
  });
  const palette = new DataTexture(tints, 256, 1);
  palette.needsUpdate = true;
  return new ShaderMaterial({
    vertexShader: CARRY_BOTH,
    fragmentShader: SHADE_PARTS,
    uniforms: { parts: { value: parts }, tints: { value: palette }, picked: { value: picked ?? -1 } },
  });
}
