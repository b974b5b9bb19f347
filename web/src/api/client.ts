// Talking to the server. Every failure becomes a `Refusal` with the server's own sentence.
import type {
  ArrivalView,
  CandidateView,
  CabinetCard,
  DemoCard,
  DrawRequest,
  Drawn,
  Edit,
  EditRequest,
  Entry,
  EvaluateRequest,
  EvaluationView,
  FitView,
  FoundThings,
  GroundView,
  HandoffDone,
  HandoffRequest,
  HandoffView,
  Imported,
  JobView,
  KeepOpened,
  KeepPreset,
  KeepSnapshot,
  KeptLayout,
  KeptLine,
  LadderRequest,
  LadderView,
  Laying,
  LayPictured,
  StrokesAsked,
  StrokesAt,
  StrokeView,
  LayRecipe,
  MadeCard,
  Layout,
  LightsView,
  LookRequest,
  MarkRequest,
  MeasureStarted,
  PatchRequest,
  Patches,
  ProbeRequest,
  ProbeView,
  Problem,
  ProjectCard,
  ProjectView,
  SaveLine,
  SaveRecipe,
  SheetRequest,
  Six,
  SetAside,
  StateView,
  ToldPictures,
  SixRequest,
  SizeInUnit,
  ToldChannel,
  ToneRequest,
  ToneView,
  StillDone,
  StillSettings,
  Swatch,
  TriedFormula,
  UsedIn,
} from "./types";
import { addresses, hold, holdOver } from "./pixels";

export class Refusal extends Error {
  constructor(
    readonly kind: string,
    message: string,
    readonly revision: number | null,
  ) {
    super(message);
  }
}

async function refusal(response: Response): Promise<Refusal> {
  try {
    const problem = (await response.json()) as Problem;
    return new Refusal(problem.type, problem.title, problem.revision);
  } catch {
    return new Refusal("unknown", `The server answered ${response.status} without saying why. Reload the page.`, null);
  }
}

async function ask(path: string, init?: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(path, init);
  } catch (error) {
    if (init?.signal?.aborted) throw error;
    throw new Refusal(
      "offline",
      "The server can't be reached. Everything up to the last saved edit is kept; start it again.",
      null,
    );
  }
  if (!response.ok) throw await refusal(response);
  return response;
}

async function get<T>(path: string): Promise<T> {
  return (await ask(path)).json() as Promise<T>;
}

async function post<T>(path: string, body: unknown = {}): Promise<T> {
  const init = { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify(body) };
  return (await ask(path, init)).json() as Promise<T>;
}

async function put<T>(path: string, body: unknown): Promise<T> {
  const init = { method: "PUT", headers: { "content-type": "application/json" }, body: JSON.stringify(body) };
  return (await ask(path, init)).json() as Promise<T>;
}

/** Takes an answer apart that has bytes behind it, from `rest` on. */
async function withBytes<T>(response: Response): Promise<{ told: T; answer: ArrayBuffer; rest: number }> {
  const answer = await response.arrayBuffer();
  const length = new DataView(answer).getUint32(0, true);
  const told = JSON.parse(new TextDecoder().decode(new Uint8Array(answer, 4, length))) as T;
  return { told, answer, rest: 4 + length };
}

/** Asks for patches: how they come, and their pixels. */
async function patches(id: number, request: PatchRequest): Promise<{ view: Patches; bytes: Uint8Array<ArrayBuffer> }> {
  const init = { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify(request) };
  const { told, answer, rest } = await withBytes<Patches>(await ask(`${project(id)}/patches`, init));
  return { view: told, bytes: new Uint8Array(answer, rest) };
}

/** Asks for an evaluation together with the pixels that are not held yet, which are held then. */
async function draw(id: number, wanted: EvaluateRequest, signal?: AbortSignal): Promise<EvaluationView> {
  const body = JSON.stringify({ wanted, holds: addresses() } satisfies DrawRequest);
  const init = { method: "POST", headers: { "content-type": "application/json" }, body, ...(signal ? { signal } : {}) };
  const { told, answer, rest } = await withBytes<Drawn>(await ask(`${project(id)}/draw`, init));
  const { view, sent } = told;
  let at = rest;
  for (const { address, bytes, over } of sent) {
    // Copied out, so that one of them doesn't keep all others.
    if (over) holdOver(address, over, new Uint8Array(answer, at, bytes));
    else hold(address, new Uint8Array(answer.slice(at, at + bytes)));
    at += bytes;
  }
  return view;
}

async function send<T>(path: string, file: Blob): Promise<T> {
  const init = { method: "POST", headers: { "content-type": "application/octet-stream" }, body: file };
  return (await ask(path, init)).json() as Promise<T>;
}

const project = (id: number) => `/api/projects/${id}`;

export const api = {
  /** Everything that can be used, with lengths that suit the project's piece. */
  catalog: (id: number) => get<Entry[]>(`${project(id)}/catalog`),
  demoPieces: () => get<DemoCard[]>("/api/demo-pieces"),
  projects: () => get<ProjectCard[]>("/api/projects"),
  startOnDemo: (key: string) => post<ProjectView>(`/api/projects/demo/${key}`),
  startOnFile: (file: File, unit: string | null, ticket: string) => {
    const query = new URLSearchParams({ name: file.name, ticket, ...(unit ? { unit } : {}) });
    return send<ProjectView>(`/api/projects/file?${query}`, file);
  },
  /** How far a mesh is that is being taken in. */
  arrival: (ticket: string) => get<ArrivalView | null>(`/api/arrivals/${ticket}`),
  /** What a mesh file measures in each unit. */
  sizes: (file: File) => send<SizeInUnit[]>(`/api/mesh-sizes?${new URLSearchParams({ name: file.name })}`, file),
  project: (id: number) => get<ProjectView>(project(id)),
  remove: async (id: number) => (await ask(project(id), { method: "DELETE" })).json() as Promise<ProjectCard[]>,
  restore: (id: number) => post<ProjectCard[]>(`${project(id)}/restore`),
  /** A layer as text, to be pasted here or in another project. */
  copyLayer: (id: number, layer: string) => get<string>(`${project(id)}/layers/${layer}/copy`),
  edit: (id: number, request: EditRequest) => post<ProjectView>(`${project(id)}/edit`, request),
  /** A small picture of a state that is not kept. */
  look: async (id: number, request: LookRequest, signal: AbortSignal) => {
    const init = { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify(request) };
    return (await ask(`${project(id)}/look`, { ...init, signal })).blob();
  },
  six: (id: number, request: SixRequest) => post<Six>(`${project(id)}/six`, request),
  /** What a formula would come to, or why it can't be kept. */
  tryFormula: (id: number, edit: Edit) => post<TriedFormula>(`${project(id)}/formula`, edit),
  swapMesh: (id: number, revision: number, file: File, unit: string) =>
    send<ProjectView>(
      `${project(id)}/mesh?${new URLSearchParams({ name: file.name, unit, revision: String(revision) })}`,
      file,
    ),
  bringFiner: (id: number, revision: number, file: File, unit: string) =>
    send<ProjectView>(
      `${project(id)}/finer?${new URLSearchParams({ name: file.name, unit, revision: String(revision) })}`,
      file,
    ),
  /** What it is for is guessed from its name where that is not said. */
  bringPicture: (id: number, revision: number, file: File, purpose?: string) =>
    send<ProjectView>(
      `${project(id)}/pictures?${new URLSearchParams({ name: file.name, revision: String(revision), ...(purpose === undefined ? {} : { purpose }) })}`,
      file,
    ),
  /** Made-up pictures for pins, and the address of a small one. */
  madePictures: () => get<MadeCard[]>("/api/made-pictures"),
  madePicture: (key: string) => `/api/made-pictures/${key}`,
  takeMade: (id: number, revision: number, key: string) =>
    post<ProjectView>(`${project(id)}/made-pictures/${key}`, { revision }),
  /** Keeps a picture that is not used yet. */
  setAside: (file: File) => send<SetAside>(`/api/pictures?${new URLSearchParams({ name: file.name })}`, file),
  tellPictures: (set: SetAside[]) => post<ToldPictures>("/api/pictures/told", set),
  strokesSeen: (id: number, asked: StrokesAsked) => post<StrokeView[]>(`${project(id)}/strokes/seen`, asked),
  strokesAt: (id: number, asked: StrokesAt) => post<string[]>(`${project(id)}/strokes/at`, asked),
  layPictured: (id: number, laid: LayPictured) => post<ProjectView>(`${project(id)}/pictured`, laid),
  /** Address of a picture that was brought in, drawn down. */
  broughtPicture: (id: number, hash: string, side = 1024) => `${project(id)}/pictures/${hash}?side=${side}`,
  /** What its channels are, to be taken for masks. */
  toldChannels: (id: number, hash: string) => get<ToldChannel[]>(`${project(id)}/pictures/${hash}/channels`),
  /** What a spot of it says. */
  tone: (id: number, hash: string, asked: ToneRequest) => post<ToneView>(`${project(id)}/pictures/${hash}/tone`, asked),
  /** The few colours that stand for it, the most frequent first. */
  pictureColors: (id: number, hash: string, count: number) =>
    get<Swatch[]>(`${project(id)}/pictures/${hash}/colors?count=${count}`),
  history: (id: number) => get<StateView[]>(`${project(id)}/history`),
  goTo: (id: number, revision: number, to: number) => put<ProjectView>(`${project(id)}/history`, { revision, to }),
  undo: (id: number, revision: number) => post<ProjectView>(`${project(id)}/undo`, { revision }),
  redo: (id: number, revision: number) => post<ProjectView>(`${project(id)}/redo`, { revision }),
  draw,
  patches,
  keepSnapshot: (id: number, snapshot: KeepSnapshot) => post<ProjectView>(`${project(id)}/snapshots`, snapshot),
  removeSnapshot: async (id: number, snapshot: number) =>
    (await ask(`${project(id)}/snapshots/${snapshot}`, { method: "DELETE" })).json() as Promise<ProjectView>,
  restoreSnapshot: (id: number, snapshot: number) => post<ProjectView>(`${project(id)}/snapshots/${snapshot}/restore`),
  goBack: (id: number, snapshot: number, revision: number) =>
    post<ProjectView>(`${project(id)}/snapshots/${snapshot}/return`, { revision }),
  probe: (id: number, at: ProbeRequest) => post<ProbeView>(`${project(id)}/probe`, at),
  /** `page` says who asks, and what the answer takes the place of. */
  preview: (id: number, page: string, candidates: Edit[]) =>
    post<CandidateView[]>(`${project(id)}/preview`, { page, candidates }),
  /** Begins to measure; events tell how far it is. */
  measure: (id: number, kinds: string[]) => post<MeasureStarted>(`${project(id)}/measure`, { kinds }),
  jobs: (id: number) => get<JobView[]>(`${project(id)}/jobs`),
  stop: (id: number, job: number) => ask(`${project(id)}/jobs/${job}/stop`, { method: "POST" }),
  planHandoff: (id: number, request: HandoffRequest) => post<HandoffView>(`${project(id)}/handoff/plan`, request),
  writeHandoff: (id: number, request: HandoffRequest) => post<HandoffDone>(`${project(id)}/handoff/write`, request),
  layouts: () => get<KeptLayout[]>("/api/layouts"),
  keepLayout: (layout: Layout) => post<KeptLayout[]>("/api/layouts", layout),
  removeLayout: async (id: number) =>
    (await ask(`/api/layouts/${id}`, { method: "DELETE" })).json() as Promise<KeptLayout[]>,
  lights: () => get<LightsView>("/api/lights"),
  /** Radiance, red, green and blue a texel. */
  panorama: async (light: string) => new Float32Array(await (await ask(`/api/lights/${light}/panorama`)).arrayBuffer()),
  ground: (id: number) => get<GroundView>(`${project(id)}/ground`),
  takeStill: (id: number, settings: StillSettings) => post<StillDone>(`${project(id)}/still`, settings),
  ladder: (id: number, request: LadderRequest) => post<LadderView>(`${project(id)}/ladder`, request),
  /** A ladder as one picture. */
  ladderSheet: async (id: number, request: SheetRequest) => {
    const init = { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify(request) };
    return (await ask(`${project(id)}/ladder/sheet`, init)).blob();
  },
  cabinet: () => get<CabinetCard[]>("/api/cabinet"),
  markRecipe: (id: number, marks: MarkRequest) => put<CabinetCard[]>(`/api/cabinet/${id}/marks`, marks),
  foundThings: () => get<FoundThings>("/api/cabinet/found"),
  setFavourite: (thing: string, favourite: boolean) =>
    put<FoundThings>("/api/cabinet/favourites", { thing, favourite }),
  usedIn: (id: number) => get<UsedIn[]>(`/api/cabinet/${id}/used`),
  saveRecipe: (id: number, save: SaveRecipe) => post<CabinetCard[]>(`${project(id)}/recipe`, save),
  /** How a recipe would lie on the piece. */
  fit: (id: number, laying: Laying) => post<FitView>(`${project(id)}/fit`, laying),
  lay: (id: number, lay: LayRecipe) => post<ProjectView>(`${project(id)}/lay`, lay),
  keepPreset: (id: number, keep: KeepPreset) => post<ProjectView>(`${project(id)}/preset`, keep),
  keepOpened: (id: number, keep: KeepOpened) => post<ProjectView>(`${project(id)}/opened`, keep),
  lines: () => get<KeptLine[]>("/api/lines"),
  saveLine: (id: number, save: SaveLine) => post<KeptLine[]>(`${project(id)}/line`, save),
  markLine: (id: number, marks: MarkRequest) => put<KeptLine[]>(`/api/lines/${id}/marks`, marks),
  countLine: (id: number) => post<KeptLine[]>(`/api/lines/${id}/used`),
  importRecipes: (file: File) => send<Imported>("/api/cabinet/import", file),
  /** Address of a file with these recipes. */
  recipeFiles: (ids: number[]) => `/api/cabinet/files?ids=${ids.join(",")}`,
  /** See `pixels` of `pixels.ts`, which asks only for what is not held. */
  pixels: async (address: string) => new Uint8Array(await (await ask(`/api/pixels/${address}`)).arrayBuffer()),
  /** With `fine`, cut finer, to be moved by its relief. */
  mesh: async (id: number, hash: string, fine = false) =>
    (await ask(`${project(id)}/mesh/${hash}?fine=${fine}`)).arrayBuffer(),
};
