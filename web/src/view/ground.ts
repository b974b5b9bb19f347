// What the piece stands on in the view: a disc that fades out, darker where the piece keeps the sky off it.
import {
  CanvasTexture,
  Color,
  DataTexture,
  LinearFilter,
  LinearSRGBColorSpace,
  Mesh,
  MeshStandardMaterial,
  NoColorSpace,
  PlaneGeometry,
  RedFormat,
} from "three";

import type { GroundView } from "../api/types";

export function groundDisc(ground: GroundView, open: Uint8Array): Mesh {
  const [from, to] = ground.fades;
  // Its rows come from the far side, a texture's go up from the near one.
  const rows = new Uint8Array(open.length);
  for (let y = 0; y < ground.size; y++)
    rows.set(open.subarray((ground.size - 1 - y) * ground.size, (ground.size - y) * ground.size), y * ground.size);
  const shade = new DataTexture(rows, ground.size, ground.size, RedFormat);
  shade.minFilter = shade.magFilter = LinearFilter;
  shade.needsUpdate = true;
  const material = new MeshStandardMaterial({
    color: new Color().setRGB(ground.grey, ground.grey, ground.grey, LinearSRGBColorSpace),
    roughness: 1,
    aoMap: shade,
    alphaMap: fade(from / to),
    transparent: true,
    depthWrite: false,
  });
  // Lamps cast no shadows here: what keeps off the sky keeps off some of their light as well.
  material.onBeforeCompile = (shader) => {
    shader.fragmentShader = shader.fragmentShader.replace(
      "#include <aomap_fragment>",
      "#include <aomap_fragment>\n  reflectedLight.directDiffuse *= ambientOcclusion;",
    );
  };
  const disc = new Mesh(new PlaneGeometry(2 * to, 2 * to), material);
  disc.rotation.x = -Math.PI / 2;
  disc.position.fromArray(ground.middle);
  disc.renderOrder = -1;
  return disc;
}

/** Opaque up to a share of the radius, gone at the rim. */
function fade(from: number): CanvasTexture {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = 256;
  const context = canvas.getContext("2d");
  if (context) {
    const gradient = context.createRadialGradient(128, 128, 0, 128, 128, 128);
    for (let k = 0; k <= 16; k++) {
      const s = 1 - k / 16;
      const grey = Math.round(255 * s * s * (3 - 2 * s));
      gradient.addColorStop(from + ((1 - from) * k) / 16, `rgb(${grey}, ${grey}, ${grey})`);
    }
    context.fillStyle = "#000";
    context.fillRect(0, 0, 256, 256);
    context.fillStyle = gradient;
    context.fillRect(0, 0, 256, 256);
  }
  const texture = new CanvasTexture(canvas);
  texture.colorSpace = NoColorSpace;
  return texture;
}
