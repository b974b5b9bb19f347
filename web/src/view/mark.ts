// The ring where the piece was looked into.
import { Mesh, MeshBasicMaterial, type Scene, TorusGeometry, type Vector3 } from "three";

export class Mark {
  private readonly ring = new Mesh(
    new TorusGeometry(1, 0.16, 10, 40),
    new MeshBasicMaterial({ color: 0x2e7d6e, depthTest: false, toneMapped: false, transparent: true }),
  );

  constructor(scene: Scene) {
    this.ring.visible = false;
    this.ring.renderOrder = 10;
    scene.add(this.ring);
  }

  show(shown: boolean): void {
    this.ring.visible = shown;
  }

  /** Lays it on a spot of a piece of that radius. */
  lay(spot: Vector3, normal: Vector3, radius: number): void {
    this.ring.position.copy(spot);
    this.ring.lookAt(spot.clone().add(normal));
    this.ring.scale.setScalar(radius * 0.022);
  }
}
