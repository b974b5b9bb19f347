// Skies and lamps in the view. What they are comes from the server, whose stills stand under the same light.
import {
  type Color,
  DataTexture,
  DataUtils,
  DirectionalLight,
  EquirectangularReflectionMapping,
  Group,
  HalfFloatType,
  HemisphereLight,
  LinearFilter,
  type Light as ThreeLight,
  LinearSRGBColorSpace,
  MathUtils,
  RGBAFormat,
  Vector3,
} from "three";

import { api } from "../api/client";
import type { Lamp, Light, LightsView } from "../api/types";

type Rgb = [number, number, number];

export function setupOf(lights: LightsView, key: string): Light {
  const found = lights.lights.find((l) => l.key === key) ?? lights.lights[0];
  if (!found) throw new Error("there is no light");
  return found;
}

const towards = (lamp: Lamp) =>
  new Vector3().setFromSphericalCoords(1, MathUtils.degToRad(90 - lamp.above), MathUtils.degToRad(lamp.around));

/** The panorama of a set-up as an equirectangular texture. */
export async function panorama(lights: LightsView, key: string): Promise<DataTexture> {
  const [width, height] = lights.panorama;
  const radiance = await api.panorama(key);
  const data = new Uint16Array(width * height * 4);
  for (let i = 0; i < width * height; i++) {
    for (let c = 0; c < 3; c++) data[4 * i + c] = DataUtils.toHalfFloat(radiance[3 * i + c] ?? 0);
    data[4 * i + 3] = DataUtils.toHalfFloat(1);
  }
  const texture = new DataTexture(data, width, height, RGBAFormat, HalfFloatType);
  texture.mapping = EquirectangularReflectionMapping;
  texture.colorSpace = LinearSRGBColorSpace;
  texture.minFilter = texture.magFilter = LinearFilter;
  texture.needsUpdate = true;
  return texture;
}

const paint = (color: Color, [r, g, b]: Rgb) => color.setRGB(r, g, b, LinearSRGBColorSpace);
const middle = (a: Rgb, b: Rgb): Rgb => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2];

/** The lamps, and, where no panorama can be afforded, a half-and-half light in its place. */
export function lamps(lights: LightsView, setup: Light, withSky: boolean, brightness: number, rim: number): Group {
  const group = new Group();
  const all: [Lamp, number][] = setup.lamps.map((lamp) => [lamp, brightness]);
  if (rim > 0) all.push([lights.rim, rim]);
  for (const [lamp, by] of all) {
    const light: ThreeLight = new DirectionalLight();
    paint(light.color, lamp.color);
    light.intensity = lamp.strength * by;
    light.position.copy(towards(lamp));
    light.layers.enableAll();
    group.add(light);
  }
  if (withSky) {
    const soft = new HemisphereLight();
    paint(soft.color, middle(setup.horizon, setup.zenith));
    paint(soft.groundColor, setup.ground);
    soft.intensity = 2.4 * brightness;
    soft.layers.enableAll();
    group.add(soft);
  }
  return group;
}
