// The stage: camera, lights and the piece. It follows the store by itself and draws only when something changed.
import {
  type BufferGeometry, type Group, type Material, Mesh, NeutralToneMapping, PerspectiveCamera, PMREMGenerator, Raycaster, Scene, Vector2, Vector3, WebGLRenderer,
  type WebGLRenderTarget,
} from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";

import { api } from "../api/client";
import type { EvaluationView } from "../api/types";
import { say } from "../state/actions";
import { busy, plain, type State, useStore } from "../state/store";
import { pieceGeometry } from "./geometry";
import { lamps, panorama, setupOf } from "./lights";
import { litMaterial, partsMaterial, plainMaterial, SHELL_COLORS } from "./materials";
import { disposeRuler, ruler } from "./ruler";
import { most, Slot } from "./textures";

const FIRST_LOOK = new Vector3(0.62, 0.34, 0.9).normalize();

/** What the lit material depends on but for the pixels. */
function lobesOf(e: EvaluationView | null): string {
  return e ? `${e.see_through ? "see-through" : "solid"} ${e.more.map((m) => `${m.map} ${m.factor}`).join()}` : "";
}

export class Stage {
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new PerspectiveCamera(32, 1, 1, 10_000);
  private readonly controls: OrbitControls;
  private readonly slots = { base: new Slot(4, true), orm: new Slot(4, false), normal: new Slot(4, false), single: new Slot(1, false), colors: new Slot(4, true), parts: new Slot(1, false, true), shells: new Slot(1, false, true) };
  private readonly more = new Map<string, Slot>();
  private readonly sizes: ResizeObserver;
  private readonly leave: () => void;
  private lights = lamps(setupOf("quay"), plain, 1);
  private skies = new Map<string, WebGLRenderTarget>();
  private piece: BufferGeometry | null = null;
  private ruler: Group | null = null;
  private mesh: Mesh | null = null;
  private readonly wardrobe = new Map<string, Material[]>();
  private textures = "";
  /** What the textures hold. */
  private worn: EvaluationView | null = null;
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
    this.scene.add(this.lights);
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
    this.undress();
    for (const slot of this.allSlots()) slot.dispose();
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
    if (now.light !== before?.light || now.turn !== before.turn || now.brightness !== before.brightness) this.light(now);
    const evaluation = now.evaluation;
    if (evaluation && evaluation !== before?.evaluation) void this.follow(evaluation);
    if (now.room !== before?.room) this.measureOut();
    const recoloured = before !== null && now.project?.piece.parts !== before.project?.piece.parts && now.shown === "parts";
    if (now.shown !== before?.shown || now.part !== before.part || recoloured) this.dress(false);
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
      this.undress();
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
      const alone = e.channel;
      const single = e.mask ?? e.reading ?? (alone && !alone.colors ? alone.pixels : null);
      const colors = alone?.colors ? alone.pixels : null;
      const news = await Promise.all([
        this.slots.base.follow(e.base_color, e.size, e.sheets),
        this.slots.orm.follow(e.orm, e.size, e.sheets),
        this.slots.normal.follow(e.normal, e.size, e.sheets),
        ...e.more.map((m) => this.packed(m.map, m.srgb).follow(m.pixels, e.size, e.sheets)),
        colors === null ? Promise.resolve(false) : this.slots.colors.follow(colors, e.size, e.sheets),
        single === null ? Promise.resolve(false) : this.slots.single.follow(single, e.size, e.sheets),
        e.parts === null ? Promise.resolve(false) : this.slots.parts.follow(e.parts, e.size, e.sheets),
        e.shells === null ? Promise.resolve(false) : this.slots.shells.follow(e.shells, e.size, e.sheets),
      ]);
      this.news ||= news.some(Boolean);
      const before = lobesOf(this.worn);
      this.worn = e;
      if (single !== null || colors !== null) this.dress(true);
      else if (news.some(Boolean) || lobesOf(e) !== before) this.dress(false);
    } catch (error) {
      say(error);
    } finally {
      done();
    }
  }

  private packed(map: string, srgb: boolean): Slot {
    const slot = this.more.get(map) ?? new Slot(4, srgb);
    this.more.set(map, slot);
    return slot;
  }

  private allSlots(): Slot[] {
    return [...Object.values(this.slots), ...this.more.values()];
  }

  /**
   * Gives the piece the material that shows what is asked for. Materials are kept while their textures are, since compiling them is dear.
   * What comes in the single-channel texture is put on only once that texture holds it.
   */
  private dress(singleIsThere: boolean): void {
    const { shown, part } = useStore.getState();
    const own = ["lit", "parts", "shells", "base_color", "normal", "roughness", "metallic"].includes(shown);
    if (!this.mesh || !(own || singleIsThere)) return;
    const textures = this.allSlots().map((s) => s.texture.uuid).join();
    if (textures !== this.textures) this.undress();
    this.textures = textures;
    const colors = useStore.getState().project?.piece.parts.map((p) => p.color).join() ?? "";
    const key = shown === "parts" ? `parts ${part ?? ""} ${colors}` : shown === "lit" ? `lit ${lobesOf(this.worn)}` : shown;
    const materials = this.wardrobe.get(key) ?? this.fitting();
    this.wardrobe.set(key, materials);
    const [first] = materials;
    if (first) this.mesh.material = materials.length > 1 ? materials : first;
    this.invalidate();
  }

  /** The ruler lies before the piece in the room where its size matters. */
  private measureOut(): void {
    if (this.ruler) this.ruler.visible = useStore.getState().room === "surface";
    this.invalidate();
  }

  private undress(): void {
    for (const material of [...this.wardrobe.values()].flat()) material.dispose();
    this.wardrobe.clear();
  }

  private fitting(): Material[] {
    const { shown, part, project } = useStore.getState();
    const { base, orm, normal, single } = this.slots;
    switch (shown) {
      case "lit": {
        const more = (this.worn?.more ?? []).map((m) => ({ map: m.map, factor: m.factor, texture: this.packed(m.map, m.srgb).texture }));
        return [litMaterial(base.texture, orm.texture, normal.texture, more, this.worn?.see_through ?? false)];
      }
      case "parts": return [partsMaterial(this.slots.parts.texture, project?.piece.parts.map((p) => p.color) ?? [], part)];
      case "shells": return [partsMaterial(this.slots.shells.texture, SHELL_COLORS, null)];
      case "base_color": return [plainMaterial(base.texture, null)];
      case "normal": return [plainMaterial(normal.texture, null)];
      case "roughness": return [plainMaterial(orm.texture, 1)];
      case "metallic": return [plainMaterial(orm.texture, 2)];
      default: {
        const colored = shown.startsWith("channel:") && this.worn?.channel?.colors === true;
        return [colored ? plainMaterial(this.slots.colors.texture, null) : plainMaterial(single.texture, 0)];
      }
    }
  }

  private light(s: State): void {
    const setup = setupOf(s.light);
    this.scene.remove(this.lights);
    this.lights = lamps(setup, plain, s.brightness);
    const turn = (s.turn * Math.PI) / 180;
    this.lights.rotation.y = turn;
    this.scene.add(this.lights);
    if (!plain) {
      this.scene.environment = this.sky(setup.key).texture;
      this.scene.environmentRotation.y = turn;
      this.scene.environmentIntensity = s.brightness;
    }
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
        this.renderer.render(this.scene, this.camera);
        // For whoever watches from outside: frames drawn, and which of them first held new pixels.
        this.host.dataset["frames"] = String(this.renderer.info.render.frame);
        if (this.news) this.host.dataset["pixels"] = this.host.dataset["frames"];
        this.news = false;
      }
      this.drawn?.();
      this.drawn = null;
    });
  };

  /** Nothing is drawn before there is something true to draw. */
  private ready(): boolean {
    return this.mesh !== null && useStore.getState().evaluation !== null;
  }

  private readonly press = (event: PointerEvent): void => {
    this.pressed.set(event.clientX, event.clientY);
  };

  /** A click that was no drag picks the part under it, while parts are shown. */
  private readonly release = (event: PointerEvent): void => {
    const moved = Math.hypot(event.clientX - this.pressed.x, event.clientY - this.pressed.y);
    if (moved > 4 || useStore.getState().shown !== "parts" || !this.mesh || !this.piece) return;
    const box = this.renderer.domElement.getBoundingClientRect();
    const at = new Vector2(((event.clientX - box.left) / box.width) * 2 - 1, 1 - ((event.clientY - box.top) / box.height) * 2);
    const caster = new Raycaster();
    caster.setFromCamera(at, this.camera);
    const hit = caster.intersectObject(this.mesh)[0];
    const part = hit?.uv ? this.slots.parts.at(hit.uv.x, hit.uv.y) : null;
    useStore.setState({ part: part === null || part === 255 ? null : part });
  };
}
