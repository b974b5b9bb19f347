// The ball for judging: half of it grey and dull, half a mirror, in the corner of the view. It stands in the light of the piece and is seen from where that is, so it
// says what light and turn are, whatever the piece is made of.
import {
  Mesh,
  MeshStandardMaterial,
  PerspectiveCamera,
  type Scene,
  SphereGeometry,
  Vector2,
  Vector3,
  type WebGLRenderer,
} from "three";

/** What only the ball's own camera sees. Lamps shine on everything. */
const LAYER = 1;
/** Its square in the corner, in CSS pixels, and how far that is from the edges. */
const SIDE = 92;
const MARGIN = 10;

export class Ball {
  private readonly camera = new PerspectiveCamera(24, 1, 0.1, 20);
  private readonly halves: Mesh[];

  constructor(private readonly scene: Scene) {
    const half = (from: number, roughness: number, metalness: number) => {
      const shape = new SphereGeometry(1, 48, 32, from, Math.PI);
      // 18 % grey in linear light, and a mirror that takes a little.
      const color = metalness > 0 ? 0xf4f4f4 : 0x767676;
      const made = new Mesh(shape, new MeshStandardMaterial({ color, roughness, metalness }));
      made.layers.set(LAYER);
      return made;
    };
    // Seen from the front the left half is dull; the ball is turned with whoever looks.
    this.halves = [half(-Math.PI / 2, 1, 0), half(Math.PI / 2, 0.02, 1)];
    this.camera.layers.set(LAYER);
  }

  /** Draws it over what was drawn, as seen along `eye`. */
  draw(renderer: WebGLRenderer, eye: PerspectiveCamera): void {
    const { scene, camera, halves } = this;
    const { x: width, y: height } = renderer.getSize(new Vector2());
    camera.quaternion.copy(eye.quaternion);
    camera.position.copy(new Vector3(0, 0, 5.2).applyQuaternion(eye.quaternion));
    for (const one of halves) one.quaternion.copy(eye.quaternion);
    const { background } = scene;
    scene.background = null;
    scene.add(...halves);
    const clears = renderer.autoClear;
    renderer.autoClear = false;
    renderer.clearDepth();
    renderer.setViewport(width - SIDE - MARGIN, MARGIN, SIDE, SIDE);
    renderer.render(scene, camera);
    renderer.setViewport(0, 0, width, height);
    renderer.autoClear = clears;
    scene.remove(...halves);
    scene.background = background;
  }

  dispose(): void {
    for (const one of this.halves) {
      one.geometry.dispose();
      (one.material as MeshStandardMaterial).dispose();
    }
  }
}
