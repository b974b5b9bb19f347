// Materials of the view: the lit one, one that shows numbers as they are, and one that tells parts apart.
import { Color, MeshStandardMaterial, ShaderMaterial, SRGBColorSpace, type Texture, Vector2 } from "three";

import { partColor } from "./partColor";

export function litMaterial(baseColor: Texture, orm: Texture, normal: Texture): MeshStandardMaterial {
  return new MeshStandardMaterial({
    map: baseColor,
    aoMap: orm,
    roughnessMap: orm,
    metalnessMap: orm,
    normalMap: normal,
    normalScale: new Vector2(1, 1),
    roughness: 1,
    metalness: 1,
  });
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
  return new ShaderMaterial({ vertexShader: CARRY_UV, fragmentShader: SHOW, uniforms: { pixels: { value: pixels }, pick: { value: weights } } });
}

const CARRY_NORMAL = /* glsl */ `
  varying vec3 vFacing;
  void main() {
    vFacing = normalMatrix * normal;
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  }`;

const SHADE = /* glsl */ `
  uniform vec3 tint;
  varying vec3 vFacing;
  void main() {
    vec3 n = normalize(vFacing);
    float light = 0.55 + 0.45 * max(dot(n, normalize(vec3(-0.4, 0.7, 0.6))), 0.0) - 0.12 * (1.0 - abs(n.z));
    gl_FragColor = vec4(tint * light, 1.0);
  }`;

function tintMaterial(tint: Color): ShaderMaterial {
  return new ShaderMaterial({ vertexShader: CARRY_NORMAL, fragmentShader: SHADE, uniforms: { tint: { value: tint } } });
}

/** One material for each part; when one is picked, the others step back. Bytes go out uncorrected, so the tint is in sRGB. */
export function partMaterials(count: number, picked: number | null): ShaderMaterial[] {
  return Array.from({ length: Math.max(count, 1) }, (_, part) => {
    const css = new Color(partColor(part));
    const { r, g, b } = css.getRGB({ r: 0, g: 0, b: 0 }, SRGBColorSpace);
    const tint = new Color();
    if (picked === null || picked === part) tint.setRGB(r, g, b);
    else tint.setRGB(0.62, 0.61, 0.6);
    return tintMaterial(tint);
  });
}
