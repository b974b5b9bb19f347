// Made-up skies and lamps. Each is a small painted panorama for reflections and soft light, and a few lamps for hard light.
import {
  type Color, DataTexture, DataUtils, DirectionalLight, EquirectangularReflectionMapping, Group, HalfFloatType, HemisphereLight,
  LinearFilter, type Light, LinearSRGBColorSpace, MathUtils, RGBAFormat, Vector3,
} from "three";

type Rgb = readonly [number, number, number];

interface Lamp {
  /** Degrees around the piece, from the front to the right. */
  around: number;
  /** Degrees above the horizon. */
  above: number;
  color: Rgb;
  strength: number;
}

/** A soft patch of light in the panorama. */
interface Glow extends Lamp {
  /** Half its width in degrees. */
  spread: number;
}

export interface LightSetup {
  key: string;
  label: string;
  zenith: Rgb;
  horizon: Rgb;
  ground: Rgb;
  glows: Glow[];
  lamps: Lamp[];
}

export const LIGHTS: LightSetup[] = [
  {
    key: "quay",
    label: "quay, overcast",
    zenith: [0.95, 1.0, 1.08],
    horizon: [0.75, 0.78, 0.8],
    ground: [0.2, 0.19, 0.175],
    glows: [
      { around: -35, above: 55, spread: 30, color: [1, 0.98, 0.95], strength: 3.2 },
      { around: 140, above: 25, spread: 16, color: [0.9, 0.97, 1], strength: 1.6 },
    ],
    lamps: [{ around: -35, above: 52, color: [1, 0.97, 0.93], strength: 1.5 }],
  },
  {
    key: "dusk",
    label: "quay at dusk",
    zenith: [0.16, 0.22, 0.38],
    horizon: [0.85, 0.52, 0.34],
    ground: [0.07, 0.065, 0.07],
    glows: [
      { around: 62, above: 9, spread: 20, color: [1, 0.6, 0.3], strength: 9 },
      { around: -120, above: 35, spread: 34, color: [0.4, 0.55, 1], strength: 0.9 },
    ],
    lamps: [
      { around: 62, above: 16, color: [1, 0.68, 0.42], strength: 2.6 },
      { around: -130, above: 30, color: [0.5, 0.65, 1], strength: 0.7 },
    ],
  },
  {
    key: "workshop",
    label: "workshop lamps",
    zenith: [0.22, 0.22, 0.22],
    horizon: [0.16, 0.16, 0.165],
    ground: [0.09, 0.085, 0.08],
    glows: [
      { around: -48, above: 42, spread: 15, color: [1, 0.95, 0.88], strength: 13 },
      { around: 55, above: 22, spread: 9, color: [0.92, 0.96, 1], strength: 9 },
      { around: 165, above: 38, spread: 10, color: [1, 1, 1], strength: 14 },
    ],
    lamps: [
      { around: -48, above: 42, color: [1, 0.95, 0.88], strength: 1.7 },
      { around: 165, above: 38, color: [1, 1, 1], strength: 1.4 },
    ],
  },
  {
    key: "noon",
    label: "open quay at noon",
    zenith: [0.32, 0.52, 0.95],
    horizon: [0.8, 0.88, 0.98],
    ground: [0.3, 0.28, 0.25],
    glows: [
      { around: 28, above: 64, spread: 5, color: [1, 0.97, 0.9], strength: 60 },
      { around: -150, above: 20, spread: 40, color: [0.9, 0.95, 1], strength: 0.5 },
    ],
    lamps: [{ around: 28, above: 64, color: [1, 0.96, 0.88], strength: 3.4 }],
  },
  {
    key: "fog",
    label: "morning fog",
    zenith: [0.82, 0.84, 0.86],
    horizon: [0.88, 0.89, 0.9],
    ground: [0.42, 0.42, 0.42],
    glows: [{ around: 80, above: 18, spread: 55, color: [1, 0.96, 0.9], strength: 0.7 }],
    lamps: [{ around: 80, above: 30, color: [1, 0.97, 0.92], strength: 0.5 }],
  },
  {
    key: "moon",
    label: "sluice by night",
    zenith: [0.012, 0.018, 0.035],
    horizon: [0.03, 0.04, 0.06],
    ground: [0.012, 0.012, 0.014],
    glows: [
      { around: -60, above: 48, spread: 4, color: [0.75, 0.85, 1], strength: 22 },
      { around: 75, above: 4, spread: 10, color: [1, 0.62, 0.25], strength: 7 },
    ],
    lamps: [
      { around: -60, above: 48, color: [0.7, 0.82, 1], strength: 0.7 },
      { around: 75, above: 12, color: [1, 0.62, 0.3], strength: 1.5 },
    ],
  },
  {
    key: "strips",
    label: "studio, long strips",
    zenith: [0.1, 0.1, 0.1],
    horizon: [0.07, 0.07, 0.07],
    ground: [0.05, 0.05, 0.05],
    glows: [
      ...[-30, -10, 10, 30, 50, 70].map((above) => ({ around: -55, above, spread: 9, color: [1, 1, 1] as const, strength: 7 })),
      ...[-30, -10, 10, 30, 50, 70].map((above) => ({ around: 70, above, spread: 5, color: [1, 1, 1] as const, strength: 9 })),
      { around: 180, above: 65, spread: 22, color: [1, 1, 1], strength: 2.4 },
    ],
    lamps: [{ around: -55, above: 30, color: [1, 1, 1], strength: 1.6 }, { around: 70, above: 25, color: [1, 1, 1], strength: 1.1 }],
  },
  {
    key: "even",
    label: "even grey, for colours",
    zenith: [0.9, 0.9, 0.9],
    horizon: [0.9, 0.9, 0.9],
    ground: [0.9, 0.9, 0.9],
    glows: [],
    lamps: [{ around: -20, above: 40, color: [1, 1, 1], strength: 0.35 }],
  },
];

export function setupOf(key: string): LightSetup {
  const found = LIGHTS.find((l) => l.key === key) ?? LIGHTS[0];
  if (!found) throw new Error("there is no light");
  return found;
}

const towards = (around: number, above: number) =>
  new Vector3().setFromSphericalCoords(1, MathUtils.degToRad(90 - above), MathUtils.degToRad(around));

const mix = (a: Rgb, b: Rgb, t: number): [number, number, number] => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t];

function sky(setup: LightSetup, direction: Vector3): [number, number, number] {
  const up = direction.y;
  const out = up >= 0 ? mix(setup.horizon, setup.zenith, Math.pow(up, 0.6)) : mix(setup.horizon, setup.ground, MathUtils.smoothstep(-up, 0, 0.25));
  for (const glow of setup.glows) {
    const angle = MathUtils.radToDeg(direction.angleTo(towards(glow.around, glow.above)));
    const weight = glow.strength * (1 - MathUtils.smoothstep(angle, glow.spread * 0.6, glow.spread * 1.4));
    glow.color.forEach((c, i) => (out[i] = (out[i] ?? 0) + c * weight));
  }
  return out;
}

/** The panorama as an equirectangular texture. */
export function panorama(setup: LightSetup): DataTexture {
  const width = 256;
  const height = 128;
  const data = new Uint16Array(width * height * 4);
  const direction = new Vector3();
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      // The convention of three.js: u = atan2(z, x) / 2π + ½, v upwards from the nadir.
      const azimuth = ((x + 0.5) / width - 0.5) * 2 * Math.PI;
      const elevation = ((y + 0.5) / height - 0.5) * Math.PI;
      direction.set(Math.cos(azimuth) * Math.cos(elevation), Math.sin(elevation), Math.sin(azimuth) * Math.cos(elevation));
      const at = (y * width + x) * 4;
      sky(setup, direction).forEach((c, i) => (data[at + i] = DataUtils.toHalfFloat(c)));
      data[at + 3] = DataUtils.toHalfFloat(1);
    }
  }
  const texture = new DataTexture(data, width, height, RGBAFormat, HalfFloatType);
  texture.mapping = EquirectangularReflectionMapping;
  texture.colorSpace = LinearSRGBColorSpace;
  texture.minFilter = texture.magFilter = LinearFilter;
  texture.needsUpdate = true;
  return texture;
}

const paint = (color: Color, rgb: Rgb) => color.setRGB(rgb[0], rgb[1], rgb[2], LinearSRGBColorSpace);

/** The lamps, and, where no panorama can be afforded, a half-and-half light in its place. */
export function lamps(setup: LightSetup, withSky: boolean, brightness: number, rim: number): Group {
  const group = new Group();
  for (const lamp of setup.lamps) {
    const light: Light = new DirectionalLight();
    paint(light.color, lamp.color);
    light.intensity = lamp.strength * brightness;
    light.position.copy(towards(lamp.around, lamp.above));
    group.add(light);
  }
  if (rim > 0) {
    // From behind, above and to the side: it draws the outline.
    const light = new DirectionalLight(0xffffff, 6 * rim);
    light.position.copy(towards(158, 34));
    group.add(light);
  }
  if (withSky) {
    const soft = new HemisphereLight();
    paint(soft.color, mix(setup.horizon, setup.zenith, 0.5));
    paint(soft.groundColor, setup.ground);
    soft.intensity = 2.4 * brightness;
    group.add(soft);
  }
  return group;
}
