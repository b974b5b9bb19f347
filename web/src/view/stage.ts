// The stage: camera, lights and the piece. It follows the store by itself and draws only when something changed.
import {
  type BufferGeometry, Color, type Group, type Material, Mesh, MeshBasicMaterial, NeutralToneMapping, PerspectiveCamera, PMREMGenerator, Raycaster, Scene, TorusGeometry, Vector2, Vector3, WebGLRenderer,
  type WebGLRenderTarget,
} from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";

import { api } from "../api/client";
import type { EvaluationView } from "../api/types";
import { say } from "../state/actions";
import { busy, plain, type State, type Surround, useStore } from "../state/store";
import { pieceGeometry } from "./geometry";
import { lamps, panorama, setupOf } from "./lights";
import { Look } from "./look";
import { disposeRuler, ruler } from "./ruler";
import { most } from "./textures";

const FIRST_LOOK = new Vector3(0.62, 0.34, 0.9).normalize();

/** Greys without a hue: colour is judged before them. The last one stands for the sky where none is drawn. */
const SURROUNDS: Record<Surround, number> = { grey: 0x777777, light: 0xc8c8c8, dark: 0x262626, sky: 0x777777 };

export class Stage {
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new PerspectiveCamera(32, 1, 1, 10_000);
  private readonly controls: OrbitControls;
  private readonly now = new Look();
  /** A snapshot's, while the present state is wiped against it. */
  private then: Look | null = null;
  private thenMaterial: Material | null = null;
  private readonly sizes: ResizeObserver;
  private readonly leave: () => void;
  private lights = lamps(setupOf("quay"), plain, 1, 0);
  private skies = new Map<string, WebGLRenderTarget>();
  private piece: BufferGeometry | null = null;
  private ruler: Group | null = null;
  private mesh: Mesh | null = null;
  private readonly ring = new Mesh(new TorusGeometry(1, 0.16, 10, 40), new MeshBasicMaterial({ color: 0x2e7d6e, depthTest: false, toneMapped: false, transparent: true }));
  private loaded: string | null = null;
  private drawn: (() => void) | null = null;
  private pressed = new Vector2();
  private framed = false;
  private news = false;

  constructor(private readonly host: HTMLElement) {
    this.renderer = new WebGLRenderer({ antialias: !plain, alpha: true, powerPreference: "high-performance" });
    most.texels = this.renderer.capabilities.maxTextureSize;
    this.renderer.setPixelRatio(plain ? 1 : Math.min(window.devicePixelRatio, 2));
    this.renderer.toneMapping = NeutralToneMapping;
    this.renderer.setClearAlpha(0);
    const canvas = this.renderer.domElement;
    canvas.setAttribute("aria-label", "The piece");
    canvas.tabIndex = 0;
    host.prepend(canvas);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.addEventListener("change", this.invalidate);
    this.scene.add(this.lights, this.ring);
    this.ring.visible = false;
    this.ring.renderOrder = 10;
    this.sizes = new ResizeObserver(this.resize);
    this.sizes.observe(host);
    canvas.addEventListener("pointerdown", this.press);
    canvas.addEventListener("pointerup", this.release);
    window.addEventListener("dustcoat:frame", this.frame);
    this.light(useStore.getState());
    this.leave = useStore.subscribe((now, before) => this.sync(now, before));
    this.sync(useStore.getState(), null);
  }

  dispose(): void {
    this.leave();
    this.sizes.disconnect();
    window.removeEventListener("dustcoat:frame", this.frame);
    this.controls.dispose();
    this.piece?.dispose();
    if (this.ruler) disposeRuler(this.ruler);
    this.now.dispose();
    this.then?.dispose();
    for (const sky of this.skies.values()) sky.dispose();
    this.renderer.dispose();
    this.renderer.domElement.remove();
    this.drawn?.();
  }

  private sync(now: State, before: State | null): void {
    const hash = now.project?.piece.hash ?? null;
    if (hash !== null && now.project && hash !== this.loaded) {
      this.loaded = hash;
      void this.loadMesh(now.project.id, hash);
    }
    const lit = ["light", "turn", "brightness", "rim", "exposure", "surround"] as const;
    if (lit.some((key) => now[key] !== before?.[key])) this.light(now);
    if (now.spot !== before?.spot || now.probing !== before?.probing || now.picking !== before?.picking) this.mark(now);
    const evaluation = now.evaluation;
    if (evaluation && evaluation !== before?.evaluation) void this.follow(evaluation);
    if (now.compared !== before?.compared) void this.followThen(now.compared);
    if (now.wipe !== before?.wipe) this.invalidate();
    if (now.room !== before?.room) this.measureOut();
    const recoloured = before !== null && now.project?.piece.parts !== before.project?.piece.parts && now.shown === "parts";
    if (now.shown !== before?.shown || now.part !== before.part || recoloured) {
      this.dress(false);
      this.dressThen(false);
    }
  }

  private async loadMesh(project: number, hash: string): Promise<void> {
    const done = busy();
    try {
      const piece = pieceGeometry(await api.mesh(project, hash));
      if (this.loaded !== hash) return;
      this.piece?.dispose();
      this.piece = piece;
      if (this.mesh) this.scene.remove(this.mesh);
      this.mesh = new Mesh(piece);
      this.scene.add(this.mesh);
      if (this.ruler) {
        this.scene.remove(this.ruler);
        disposeRuler(this.ruler);
      }
      this.ruler = piece.boundingBox ? ruler(piece.boundingBox) : null;
      if (this.ruler) this.scene.add(this.ruler);
      this.measureOut();
      this.now.undress();
      this.dress(false);
      this.frame();
    } catch (error) {
      say(error);
    } finally {
      done();
    }
  }

  /** Brings the textures up to the evaluation and draws once all of them are there. */
  private async follow(e: EvaluationView): Promise<void> {
    const done = busy();
    try {
      const { news, alone } = await this.now.follow(e);
      this.news ||= news;
      if (alone || news) this.dress(alone);
    } catch (error) {
      say(error);
    } finally {
      done();
    }
  }

  /** The same for a snapshot's, or none any more. */
  private async followThen(e: EvaluationView | null): Promise<void> {
    if (e === null) {
      this.then?.dispose();
      this.then = this.thenMaterial = null;
      this.invalidate();
      return;
    }
    const done = busy();
    try {
      this.then ??= new Look();
      const { alone } = await this.then.follow(e);
      this.dressThen(alone);
    } catch (error) {
      say(error);
    } finally {
      done();
    }
  }

  /** Gives the piece the material that shows what is asked for. What comes in a texture of its own is put on only once that holds it. */
  private dress(aloneIsThere: boolean): void {
    const { shown, part, project } = useStore.getState();
    const material = this.mesh && this.now.material(shown, part, project?.piece.parts ?? [], aloneIsThere);
    if (!material || !this.mesh) return;
    this.mesh.material = material;
    this.invalidate();
  }

  private dressThen(aloneIsThere: boolean): void {
    const { shown, part, project } = useStore.getState();
    const material = this.then?.material(shown, part, project?.piece.parts ?? [], aloneIsThere);
    if (material) this.thenMaterial = material;
    this.invalidate();
  }

  /** The ruler lies before the piece in the room where its size matters. */
  private measureOut(): void {
    if (this.ruler) this.ruler.visible = useStore.getState().room === "surface";
    this.invalidate();
  }

  private light(s: State): void {
    const setup = setupOf(s.light);
    this.scene.remove(this.lights);
    this.lights = lamps(setup, plain, s.brightness, s.rim);
    const turn = (s.turn * Math.PI) / 180;
    this.lights.rotation.y = turn;
    this.scene.add(this.lights);
    if (!plain) {
      this.scene.environment = this.sky(setup.key).texture;
      this.scene.environmentRotation.y = turn;
      this.scene.environmentIntensity = s.brightness;
      this.scene.backgroundRotation.y = turn;
      this.scene.backgroundIntensity = s.brightness;
      this.scene.backgroundBlurriness = 0.35;
    }
    // What lets light through shows the surround: it has to be in the scene.
    this.scene.background = s.surround === "sky" && !plain ? this.scene.environment : new Color(SURROUNDS[s.surround]);
    this.renderer.toneMappingExposure = Math.pow(2, s.exposure);
    this.invalidate();
  }

  /** A ring where the piece was looked into. */
  private mark(s: State): void {
    this.ring.visible = s.probing && s.spot !== null;
    this.renderer.domElement.style.cursor = s.probing || s.picking ? "crosshair" : "";
    this.invalidate();
  }

  private sky(key: string): WebGLRenderTarget {
    let sky = this.skies.get(key);
    if (!sky) {
      const painted = panorama(setupOf(key));
      const filter = new PMREMGenerator(this.renderer);
      sky = filter.fromEquirectangular(painted);
      filter.dispose();
      painted.dispose();
      this.skies.set(key, sky);
    }
    return sky;
  }

  private readonly frame = (): void => {
    const sphere = this.piece?.boundingSphere;
    if (!sphere) return;
    const vertical = (this.camera.fov * Math.PI) / 360;
    const narrow = Math.min(vertical, Math.atan(Math.tan(vertical) * this.camera.aspect));
    const distance = sphere.radius / Math.sin(narrow);
    const look = this.controls.target.distanceTo(this.camera.position) > 0 && this.framed
      ? this.camera.position.clone().sub(this.controls.target).normalize()
      : FIRST_LOOK;
    this.framed = true;
    this.camera.position.copy(sphere.center).addScaledVector(look, distance);
    this.camera.near = sphere.radius / 100;
    this.camera.far = sphere.radius * 40;
    this.controls.minDistance = sphere.radius * 0.15;
    this.controls.maxDistance = sphere.radius * 20;
    this.controls.target.copy(sphere.center);
    this.camera.updateProjectionMatrix();
    this.controls.update();
    this.invalidate();
  };

  private readonly resize = (): void => {
    const { clientWidth: width, clientHeight: height } = this.host;
    if (width === 0 || height === 0) return;
    this.renderer.setSize(width, height);
    this.camera.aspect = width / height;
    this.camera.updateProjectionMatrix();
    this.invalidate();
  };

  private readonly invalidate = (): void => {
    if (this.drawn) return;
    this.drawn = busy();
    requestAnimationFrame(() => {
      if (this.ready()) {
        this.draw();
        // For whoever watches from outside: frames drawn, and which of them first held new pixels.
        this.host.dataset["frames"] = String(this.renderer.info.render.frame);
        if (this.news) this.host.dataset["pixels"] = this.host.dataset["frames"];
        this.news = false;
      }
      this.drawn?.();
      this.drawn = null;
    });
  };

  /** Draws the piece, and left of the wipe the snapshot's. */
  private draw(): void {
    const { compare, wipe } = useStore.getState();
    const { mesh, thenMaterial } = this;
    if (compare === null || !thenMaterial || !mesh) {
      this.renderer.render(this.scene, this.camera);
      return;
    }
    const { clientWidth: width, clientHeight: height } = this.host;
    const edge = Math.round(width * wipe);
    const present = mesh.material;
    this.renderer.setScissorTest(true);
    this.renderer.setScissor(edge, 0, width - edge, height);
    this.renderer.render(this.scene, this.camera);
    mesh.material = thenMaterial;
    this.renderer.setScissor(0, 0, edge, height);
    this.renderer.render(this.scene, this.camera);
    mesh.material = present;
    this.renderer.setScissorTest(false);
  }

  /** Nothing is drawn before there is something true to draw. */
  private ready(): boolean {
    return this.mesh !== null && useStore.getState().evaluation !== null;
  }

  private readonly press = (event: PointerEvent): void => {
    this.pressed.set(event.clientX, event.clientY);
  };

  /** A click that was no drag picks the part under it, while parts are shown, takes a colour, or looks into the piece. */
  private readonly release = (event: PointerEvent): void => {
    const moved = Math.hypot(event.clientX - this.pressed.x, event.clientY - this.pressed.y);
    const { shown, probing, picking } = useStore.getState();
    if (moved > 4 || !(picking || probing || shown === "parts") || !this.mesh || !this.piece) return;
    const box = this.renderer.domElement.getBoundingClientRect();
    const at = new Vector2(((event.clientX - box.left) / box.width) * 2 - 1, 1 - ((event.clientY - box.top) / box.height) * 2);
    const caster = new Raycaster();
    caster.setFromCamera(at, this.camera);
    const hit = caster.intersectObject(this.mesh)[0];
    if (picking) {
      if (hit?.uv) picking.take(this.now.colorAt(hit.uv.x, hit.uv.y));
      useStore.setState({ picking: null });
      return;
    }
    if (probing) {
      if (!hit?.uv || !hit.normal) return;
      this.ring.position.copy(hit.point);
      this.ring.lookAt(hit.point.clone().add(hit.normal));
      this.ring.scale.setScalar((this.piece.boundingSphere?.radius ?? 100) * 0.022);
      useStore.setState({ spot: { u: hit.uv.x, v: hit.uv.y } });
      return;
    }
    const part = hit?.uv ? this.now.partAt(hit.uv.x, hit.uv.y) : null;
    useStore.setState({ part: part === null || part === 255 ? null : part });
  };
}
