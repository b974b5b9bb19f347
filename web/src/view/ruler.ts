// A ruler of 300 mm that stands beside the piece, so that its size can be read.
import {
  type Box3,
  BoxGeometry,
  CanvasTexture,
  Group,
  Mesh,
  MeshBasicMaterial,
  Sprite,
  SpriteMaterial,
  SRGBColorSpace,
} from "three";

const LENGTH = 300;
const FIELD = 50;

/** A ruler for a piece of that extent, in millimetres, standing on the ground beside it. */
export function ruler(extent: Box3): Group {
  const group = new Group();
  const span = Math.max(extent.max.x - extent.min.x, extent.max.y - extent.min.y, extent.max.z - extent.min.z, 1);
  const thick = Math.min(Math.max(span * 0.012, 1), 12);
  const shape = new BoxGeometry(thick, FIELD, thick);
  for (let k = 0; k < LENGTH / FIELD; k++) {
    const field = new Mesh(
      shape,
      new MeshBasicMaterial({ color: k % 2 === 0 ? 0x2a2927 : 0xf3f1ed, toneMapped: false }),
    );
    field.position.y = (k + 0.5) * FIELD;
    group.add(field);
  }
  const label = new Sprite(new SpriteMaterial({ map: words(`${LENGTH} mm`), toneMapped: false }));
  label.scale.set(thick * 16, thick * 4, 1);
  label.position.set(0, LENGTH + thick * 3, 0);
  group.add(label);
  group.position.set(extent.min.x - span * 0.14, extent.min.y, (extent.min.z + extent.max.z) / 2);
  return group;
}

function words(text: string): CanvasTexture {
  const canvas = document.createElement("canvas");
  canvas.width = 256;
  canvas.height = 64;
  const pen = canvas.getContext("2d");
  if (pen) {
    pen.font = "600 44px 'Source Sans 3 Variable', sans-serif";
    pen.textBaseline = "middle";
    pen.fillStyle = "#f3f1ed";
    pen.textAlign = "center";
    pen.fillText(text, 128, 34);
  }
  const texture = new CanvasTexture(canvas);
  texture.colorSpace = SRGBColorSpace;
  return texture;
}

export function disposeRuler(group: Group): void {
  group.traverse((o) => {
    if (o instanceof Mesh) {
      (o.geometry as BoxGeometry).dispose();
      (o.material as MeshBasicMaterial).dispose();
    }
    if (o instanceof Sprite) {
      o.material.map?.dispose();
      o.material.dispose();
    }
  });
}
