// The stage: camera, lights and the piece. It follows the store by itself and draws only when something changed.
import {
  type BufferGeometry,
  Group,
  type Material,
  Mesh,
  NeutralToneMapping,
  PerspectiveCamera,
  Scene,
  Vector2,
  Vector3,
  WebGLRenderer,
} from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";

import { api } from "../api/client";
import type { EvaluationView } from "../api/types";
import { say } from "../state/actions";
import { busy, type Camera, comparing, plain, type State, useStore } from "../state/store";
import { Ball } from "./ball";
import { Brush } from "./brush";
import { drawBoth } from "./both";
import { pieceGeometry } from "./geometry";
import { comeNear, seenAt } from "./hand";
import { Look } from "./look";
import { Mark } from "./mark";
import { Near } from "./near";
import { Path } from "./path";
import { PinFrame } from "./pin";
import { disposeRuler, ruler } from "./ruler";
import { Surroundings } from "./surroundings";
import { most } from "./textures";
import { touched } from "./touch";

const FIRST_LOOK = new Vector3(0.62, 0.34, 0.9).normalize();

export class Stage {
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new PerspectiveCamera(32, 1, 1, 10_000);
  private readonly controls: OrbitControls;
  private readonly near: Near;
  private readonly now: Look;
  /** A snapshot's, while the present state is wiped against it. */
  private then: Look | null = null;
  private thenMaterial: Material | null = null;
  private readonly sizes: ResizeObserver;
  private readonly leave: () => void;
  private readonly around: Surroundings;
  private readonly ball = new Ball(this.scene);
  private piece: BufferGeometry | null = null;
  /** The same in more triangles, once its relief moves it. */
  private fine: BufferGeometry | null = null;
  /** The piece that is being fetched so. */
  private fetching: string | null = null;
  private ruler: Group | null = null;
  private mesh: Mesh | null = null;
  private readonly spot = new Mark(this.scene);
  private readonly hands: (Brush | Path | PinFrame)[];
  private loaded: string | null = null;
  private drawn: (() => void) | null = null;
  private framed = false;
  private news = false;
  /** Where the pointer is over the view, −1…1; its middle before it ever was. */
  private readonly pointer = new Vector2();

  constructor(private readonly host: HTMLElement) {
    this.renderer = new WebGLRenderer({ antialias: !plain, alpha: true, powerPreference: "high-performance" });
    most.texels = this.renderer.capabilities.maxTextureSize;
    this.renderer.setPixelRatio(plain ? 1 : Math.min(window.devicePixelRatio, 2));
    this.renderer.toneMapping = NeutralToneMapping;
    this.renderer.setClearAlpha(0);
    // For whoever watches from outside: how many patches are laid over the draft, and how many are asked for.
    this.near = new Near(
      this.renderer,
      (laid) => {
        host.dataset["near"] = String(laid);
        this.invalidate();
      },
      (asked) => (host.dataset["wanted"] = String(asked)),
    );
    this.now = new Look((lit) => this.near.cover(lit));
    const canvas = this.renderer.domElement;
    canvas.setAttribute("aria-label", "The piece");
    canvas.tabIndex = 0;
    host.prepend(canvas);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.addEventListener("change", this.invalidate);
    const { scene, camera, invalidate } = this;
    const view = { host, canvas, scene, camera, mesh: () => this.mesh, invalidate };
    this.hands = [new Path(view), new Brush(view), new PinFrame(view)];
    this.around = new Surroundings(this.renderer, this.scene, this.invalidate);
    this.sizes = new ResizeObserver(this.resize);
    this.sizes.observe(host);
    touched(
      canvas,
      (at, left) => this.touch(at, left),
      (at) => this.pointer.copy(at),
    );
    window.addEventListener("dustcoat:frame", this.frame);
    window.addEventListener("dustcoat:place", this.goTo);
    window.addEventListener("dustcoat:closely", this.closely);
    this.controls.addEventListener("end", this.tellPlace);
    this.around.light(useStore.getState());
    this.leave = useStore.subscribe((now, before) => this.sync(now, before));
    this.sync(useStore.getState(), null);
  }

  dispose(): void {
    this.leave();
    this.near.dispose();
    this.sizes.disconnect();
    window.removeEventListener("dustcoat:frame", this.frame);
    window.removeEventListener("dustcoat:place", this.goTo);
    window.removeEventListener("dustcoat:closely", this.closely);
    this.controls.dispose();
    this.piece?.dispose();
    this.fine?.dispose();
    if (this.ruler) disposeRuler(this.ruler);
    this.now.dispose();
    this.then?.dispose();
    this.around.dispose();
    this.ball.dispose();
    this.hands.forEach((hand) => hand.dispose());
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
    const lit = ["lights", "light", "turn", "brightness", "rim", "exposure", "surround"] as const;
    if (lit.some((key) => now[key] !== before?.[key])) this.around.light(now);
    if (now.spot !== before?.spot || now.probing !== before?.probing || now.picking !== before?.picking) this.mark(now);
    const evaluation = now.evaluation;
    if (evaluation && evaluation !== before?.evaluation) void this.follow(evaluation);
    if (now.ground !== before?.ground || now.project?.piece.hash !== before.project?.piece.hash)
      void this.around.stand(now);
    if (now.compared !== before?.compared) void this.followThen(now.compared);
    if (now.wipe !== before?.wipe || now.beside !== before.beside || now.ball !== before.ball) this.invalidate();
    if (now.room !== before?.room) this.measureOut();
    const recoloured =
      before !== null && now.project?.piece.parts !== before.project?.piece.parts && now.shown === "parts";
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
      this.fine?.dispose();
      this.piece = piece;
      this.fine = null;
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

  /** The piece in more triangles, for its relief to move. */
  private async loadFine(): Promise<void> {
    const { project } = useStore.getState();
    const hash = this.loaded;
    if (!project || hash === null || this.fetching === hash) return;
    this.fetching = hash;
    const done = busy();
    try {
      const fine = pieceGeometry(await api.mesh(project.id, hash, true), true);
      if (this.loaded !== hash) return;
      this.fine = fine;
      this.dress(false);
    } catch (error) {
      say(error);
    } finally {
      this.fetching = null;
      done();
    }
  }

  /** Brings the textures up to the evaluation and draws once all of them are there. */
  private async follow(e: EvaluationView): Promise<void> {
    const done = busy();
    try {
      const { news, alone } = await this.now.follow(e);
      this.near.keep(useStore.getState());
      this.news ||= news;
      performance.clearMarks("uploaded");
      performance.mark("uploaded");
      if (news) this.host.dataset["arrived"] = String(this.renderer.info.render.frame);
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
    if (!material || !this.mesh || !this.piece) return;
    this.mesh.material = material;
    const moves = shown === "lit" && this.now.moves();
    if (moves && !this.fine) void this.loadFine();
    this.mesh.geometry = (moves && this.fine) || this.piece;
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

  /** A ring where the piece was looked into. */
  private mark(s: State): void {
    this.spot.show(s.probing && s.spot !== null);
    this.renderer.domElement.style.cursor = s.probing || s.picking ? "crosshair" : "";
    this.invalidate();
  }

  /** Says where the camera is, for stills and for places that are kept. */
  private readonly tellPlace = (): void => {
    const { camera, controls } = this;
    // Before there is a piece to frame nothing is looked at.
    if (camera.position.equals(controls.target)) return;
    const place: Camera = {
      eye: camera.position.toArray(),
      target: controls.target.toArray(),
      fov: camera.fov,
      aspect: this.host.clientWidth / this.host.clientHeight,
    };
    useStore.setState({ camera: place });
  };

  /** Goes to a place that was kept. */
  private readonly goTo = (event: Event): void => {
    if (!(event instanceof CustomEvent)) return;
    const { eye, target } = event.detail as Pick<Camera, "eye" | "target">;
    this.camera.position.fromArray(eye);
    this.controls.target.fromArray(target);
    this.controls.update();
    this.tellPlace();
    this.invalidate();
  };

  /** Looks closely at the spot under the pointer, or in the middle of the view. */
  private readonly closely = (): void => {
    const spot = this.hit(this.pointer) ?? this.hit(new Vector2());
    if (!spot || !this.piece?.boundingSphere) return;
    comeNear(spot.point, this.piece.boundingSphere.radius, this.camera, this.controls);
    this.tellPlace();
    this.invalidate();
  };

  private hit(at: Vector2) {
    return seenAt(at, this.camera, this.mesh);
  }

  private readonly frame = (): void => {
    const sphere = this.piece?.boundingSphere;
    if (!sphere) return;
    const vertical = (this.camera.fov * Math.PI) / 360;
    const narrow = Math.min(vertical, Math.atan(Math.tan(vertical) * this.camera.aspect));
    const distance = sphere.radius / Math.sin(narrow);
    const look =
      this.controls.target.distanceTo(this.camera.position) > 0 && this.framed
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
    this.tellPlace();
    this.invalidate();
  };

  private readonly resize = (): void => {
    const { clientWidth: width, clientHeight: height } = this.host;
    if (width === 0 || height === 0) return;
    this.renderer.setSize(width, height);
    this.camera.aspect = width / height;
    this.camera.updateProjectionMatrix();
    this.tellPlace();
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
        if (this.news) {
          performance.clearMarks("drawn");
          performance.mark("drawn");
          this.host.dataset["pixels"] = this.host.dataset["frames"];
          this.host.dataset["size"] = String(useStore.getState().evaluation?.size ?? 0);
        }
        this.news = false;
        if (this.piece && !plain) this.near.soon(this.piece, this.camera);
      }
      this.drawn?.();
      this.drawn = null;
    });
  };

  /** Draws the piece, and left of the wipe, or beside it, the snapshot's. */
  private draw(): void {
    const state = useStore.getState();
    const { renderer, scene, camera, mesh, thenMaterial } = this;
    if (comparing(state) === null || !thenMaterial || !mesh) renderer.render(scene, camera);
    else drawBoth({ renderer, scene, camera, mesh }, thenMaterial, state.beside ? null : state.wipe);
    if (state.ball) this.ball.draw(renderer, camera);
  }

  /** Nothing is drawn before there is something true to draw. */
  private ready(): boolean {
    return this.mesh !== null && this.around.ready() && useStore.getState().evaluation !== null;
  }

  /** A click that was no drag picks the part under it, while parts are shown, takes a colour, or looks into the piece. */
  private touch(at: Vector2, left: boolean): void {
    const { shown, probing, picking } = useStore.getState();
    if (!(picking || probing || shown === "parts") || !this.piece) return;
    const hit = this.hit(at);
    if (picking) {
      if (hit?.uv) picking.take(this.now.colorAt(hit.uv.x, hit.uv.y));
      useStore.setState({ picking: null });
      return;
    }
    if (probing) {
      if (!hit?.uv || !hit.normal) return;
      this.spot.lay(hit.point, hit.normal, this.piece.boundingSphere?.radius ?? 100);
      useStore.setState({ spot: { u: hit.uv.x, v: hit.uv.y, left } });
      return;
    }
    const part = hit?.uv ? this.now.partAt(hit.uv.x, hit.uv.y) : null;
    useStore.setState({ part: part === null || part === 255 ? null : part });
  }
}
