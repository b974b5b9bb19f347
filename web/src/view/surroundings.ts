// What surrounds the piece in the view: lamps, the sky that it reflects, and what it stands on.
import {
  Color,
  Group,
  type Mesh,
  PMREMGenerator,
  type Scene,
  SRGBColorSpace,
  type WebGLRenderer,
  type WebGLRenderTarget,
} from "three";

import { api } from "../api/client";
import { pixels } from "../api/pixels";
import { say } from "../state/actions";
import { busy, plain, type State, useStore } from "../state/store";
import { groundDisc } from "./ground";
import { lamps, panorama, setupOf } from "./lights";

export class Surroundings {
  private lights = new Group();
  private skies = new Map<string, Promise<WebGLRenderTarget>>();
  /** The set-up whose sky is in place. */
  private skyOf: string | null = null;
  private ground: Mesh | null = null;

  constructor(
    private readonly renderer: WebGLRenderer,
    private readonly scene: Scene,
    private readonly invalidate: () => void,
  ) {}

  /** Whether there is light to see by. */
  ready(): boolean {
    return plain || this.skyOf !== null;
  }

  dispose(): void {
    for (const sky of this.skies.values())
      void sky.then(
        (target) => target.dispose(),
        () => undefined,
      );
    this.ground?.geometry.dispose();
  }

  /** Brings light and surround up to what is asked for. */
  light(s: State): void {
    if (!s.lights) return;
    const setup = setupOf(s.lights, s.light);
    this.scene.remove(this.lights);
    this.lights = lamps(s.lights, setup, plain, s.brightness, s.rim);
    const turn = (s.turn * Math.PI) / 180;
    this.lights.rotation.y = turn;
    this.scene.add(this.lights);
    if (!plain) {
      void this.hang(setup.key);
      this.scene.environmentRotation.y = turn;
      this.scene.environmentIntensity = s.brightness;
      this.scene.backgroundRotation.y = turn;
      this.scene.backgroundIntensity = s.brightness;
      this.scene.backgroundBlurriness = 0.35;
    }
    // What lets light through shows the surround: it has to be in the scene.
    const grey = (s.lights.surrounds.find((k) => k.key === s.surround)?.byte ?? 119) / 255;
    this.scene.background =
      s.surround === "sky" && !plain ? this.scene.environment : new Color().setRGB(grey, grey, grey, SRGBColorSpace);
    this.renderer.toneMappingExposure = Math.pow(2, s.exposure);
    this.invalidate();
  }

  /** Puts the sky of a set-up in place, once it is there. */
  private async hang(key: string): Promise<void> {
    if (this.skyOf === key) return;
    const done = busy();
    try {
      const sky = await this.sky(key);
      const s = useStore.getState();
      if (s.light !== key || this.skyOf === key) return;
      this.skyOf = key;
      this.scene.environment = sky.texture;
      this.light(s);
    } catch (error) {
      this.skies.delete(key);
      say(error);
    } finally {
      done();
    }
  }

  /** Puts the piece on the ground, or takes that away. */
  async stand(s: State): Promise<void> {
    if (this.ground) {
      this.scene.remove(this.ground);
      this.ground.geometry.dispose();
      this.ground = null;
      this.invalidate();
    }
    if (!s.ground || !s.project) return;
    const done = busy();
    try {
      const view = await api.ground(s.project.id);
      const disc = groundDisc(view, await pixels(view.pixels));
      const now = useStore.getState();
      if (!now.ground || now.project?.piece.hash !== s.project.piece.hash || this.ground) return;
      this.ground = disc;
      this.scene.add(disc);
      this.invalidate();
    } catch (error) {
      say(error);
    } finally {
      done();
    }
  }

  private sky(key: string): Promise<WebGLRenderTarget> {
    let sky = this.skies.get(key);
    if (!sky) {
      sky = this.painted(key);
      this.skies.set(key, sky);
    }
    return sky;
  }

  private async painted(key: string): Promise<WebGLRenderTarget> {
    const { lights } = useStore.getState();
    if (!lights) throw new Error("What light there is has not come from the server yet. Reload the page.");
    const picture = await panorama(lights, key);
    const filter = new PMREMGenerator(this.renderer);
    const sky = filter.fromEquirectangular(picture);
    filter.dispose();
    picture.dispose();
    return sky;
  }
}
