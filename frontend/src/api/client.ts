import type { components } from "./schema";
import { askToSignIn } from "./visit";

type Schemas = components["schemas"];

/** The wire's optional parts are always filled in by the server. */
type Whole<T> = T extends (infer One)[] ? (number extends T["length"] ? Whole<One>[] : T) : T extends object ? { [K in keyof T]-?: Whole<T[K]> } : T;

export type Photo = Schemas["PhotoOut"];
export type PhotoPage = Schemas["PhotoListOut"];
export type Place = Schemas["PlaceOut"];
export type Sheet = Schemas["SheetOut"];
/** What photos can be chosen by. */
export type Filters = Schemas["FiltersOut"];
/** Something that is done to many photos, and how far it is. */
export type Batch = Schemas["BatchOut"];
export type Counted = Schemas["CountedOut"];
export type Reach = Schemas["TakeIn"]["reach"];
export type CarryPart = Schemas["CarryIn"]["parts"][number];
/** What photos tell together. */
export type Series = Schemas["SeriesOut"];
/** The work that waits and runs, who does it, and the room that is used. */
export type GoingOn = Schemas["GoingOnOut"];
/** A photo that wants a pair of eyes. */
export type Review = Schemas["ReviewOut"];
export type ReviewExtent = Review["extents"][number];
export type Recipe = Whole<Schemas["Recipe"]>;
export type Reference = Recipe["references"][number];
export type Bench = Omit<Schemas["BenchOut"], "recipe" | "evaluation"> & { recipe: Recipe; evaluation: Evaluation };
type Wire = Schemas["EvaluateOut"];
export type Evaluation = Wire;
/** What was looked at, and the recipe after the action that was looked at with it. */
export type Look = Omit<Schemas["LookOut"], "after"> & { after: { recipe: Recipe } | null };
/** Something that is done to a photo, told by its name `do`. */
export type Action = Schemas["ActionIn"];
/** A photo after an action, and what is to be told of it. */
/** What Sequor has found by itself; nothing of it is done. */
export type Found = Omit<Schemas["FoundOut"], "extents"> & { extents: (Omit<Schemas["FoundExtentOut"], "lines"> & { lines: Reference[] })[] };
export type Revised = Bench & Pick<Schemas["RevisedOut"], "words" | "done">;
export type LineRow = Evaluation["lines"][number];
export type Kind = Reference["kind"];
export type Lens = Recipe["lens"];
export type Profiles = Omit<Schemas["ProfilesOut"], "profiles"> & { profiles: Lens[] };
export type StillWire = Schemas["StillLine"];
export type Revision = Schemas["RevisionOut"];
export type Revisions = Schemas["RevisionsOut"];
export type Seen = { recipe: Recipe; evaluation: Evaluation };
export type AngleRow = Evaluation["angles"][number];
export type AngleName = AngleRow["name"];
export type Job = Schemas["JobOut"];
export type ExportSettings = Recipe["export"];
/** Those of them that are set for many photos at once; the others are the server's own. */
export type ManySettings = Pick<ExportSettings, "format" | "quality" | "size" | "depth" | "profile" | "sharpen" | "leave_out" | "name">;
export type Print = NonNullable<Recipe["frame"]["print"]>;
export type CostRow = Schemas["CostRowOut"];
export type ViewRow = Schemas["ViewRowOut"];
export type Shapes = Schemas["ShapesOut"];
export type OwnRatio = Schemas["OwnRatioOut"];
export type Version = Schemas["VersionOut"];
export type Versions = Schemas["VersionsOut"];
export type EdgeChoice = Schemas["EdgeChoiceOut"];
export type Edges = Schemas["EdgesOut"];
export type Take = Whole<Schemas["TakeOut"]>;
export type Takes = Whole<Schemas["TakesOut"]>;
export type Patch = Recipe["edges"]["patches"][number];

/** An answer that is an error (RFC 9457). */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    detail: string,
  ) {
    super(detail);
  }
}

/** Why something did not work, for whoever asked for it. */
export const wordsOf = (problem: unknown, otherwise = "That did not work. Nothing was changed; please try again.") => (problem instanceof Problem ? problem.message : otherwise);

let token: Promise<string> | null = null;
let secret: string | null = null;

async function changeToken(): Promise<string> {
  token ??= fetch("/api/session")
    .then((answer) => answer.json() as Promise<{ token: string }>)
    .then((session) => (secret = session.token))
    .catch((error: unknown) => {
      token = null;
      throw error;
    });
  return token;
}

/** A session that began anew has another one. */
function forgetToken() {
  token = secret = null;
}

/** Browsers let 64 KB go on without a page. */
const KEEPALIVE_MOST = 60_000;

interface Options {
  method?: string;
  body?: unknown;
  version?: number;
  signal?: AbortSignal;
}

/** One request; throws Problem with words that can be shown. */
export async function request<T>(path: string, options: Options = {}): Promise<T> {
  const headers: Record<string, string> = {};
  const method = options.method ?? "GET";
  if (options.body !== undefined) headers["Content-Type"] = "application/json";
  if (options.version !== undefined) headers["If-Match"] = `"${options.version}"`;
  const body = options.body === undefined ? undefined : JSON.stringify(options.body);
  let answer: Response;
  try {
    if (method !== "GET") headers["X-Sequor-Token"] = secret ?? (await changeToken());
    answer = await fetch(path, {
      method,
      headers,
      body,
      signal: options.signal,
      // What is small enough still arrives when the page is put away.
      keepalive: method !== "GET" && document.visibilityState === "hidden" && (body?.length ?? 0) < KEEPALIVE_MOST,
    });
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new Problem(0, "No answer", "Sequor is not answering. Everything saved is safe; start it again with bin/start and reload this page.");
  }
  if (!answer.ok) throw await problemOf(answer);
  return (answer.status === 204 ? undefined : await answer.json()) as T;
}

async function problemOf(answer: Response): Promise<Problem> {
  if (answer.status === 401) askToSignIn();
  const document = (await answer.json().catch(() => ({}))) as { title?: string; detail?: string };
  return new Problem(answer.status, document.title ?? answer.statusText, document.detail ?? "Try again.");
}

/** Where the small picture lies of what an action would make of a revision. */
export const pictureAfter = (photo: number, revision: number, action: Action) =>
  `/api/photos/${photo}/revisions/${revision}/after.jpg?action=${encodeURIComponent(JSON.stringify(action))}`;

/** The same of the corner alone that has most to fill. */
export const cornerAfter = (photo: number, revision: number, action: Action) => `${pictureAfter(photo, revision, action)}&corner`;

export const api = {
  /** The photos that a query asks for, from behind a page on. */
  photos: (asked: string, after: string) => request<PhotoPage>(`/api/photos${asked}${after && `${asked ? "&" : "?"}after=${encodeURIComponent(after)}`}`),
  /** All of them by their numbers. */
  numbers: (asked: string) => request<{ photos: number[] }>(`/api/photos/numbers${asked}`).then(({ photos }) => photos),
  sheet: (asked: string) => request<Sheet>(`/api/sheet${asked}`),
  filters: () => request<Filters>("/api/sheet/choices"),
  place: (id: number, asked: string) => request<Place>(`/api/photos/${id}/place${asked}`),
  /** Which files are here already, by the hashes of their content. */
  known: (sha256s: string[]) => request<{ known: string[] }>("/api/known", { method: "POST", body: { sha256s } }).then(({ known }) => known),
  /** What is still being done to many photos, and what was done last. */
  batches: () => request<Schemas["BatchesOut"]>("/api/batches"),
  batch: (id: number) => request<Batch>(`/api/batches/${id}`),
  beginImport: (label: string) => request<Batch>("/api/batches/import", { method: "POST", body: { label } }),
  lookAgain: (photos: number[]) => request<Batch>("/api/batches/look", { method: "POST", body: { photos } }),
  countTake: (photos: number[], reach: Reach, least: number) =>
    request<Counted>("/api/batches/take/count", { method: "POST", body: { photos, reach, least } }),
  take: (photos: number[], reach: Reach, least: number) => request<Batch>("/api/batches/take", { method: "POST", body: { photos, reach, least } }),
  carry: (source: number, photos: number[], parts: CarryPart[]) =>
    request<Batch>("/api/batches/carry", { method: "POST", body: { source, photos, parts } }),
  series: (photos: number[], what: Schemas["SeriesIn"]["what"]) => request<Series>("/api/series", { method: "POST", body: { photos, what } }),
  share: (photos: number[], what: Schemas["SeriesIn"]["what"]) => request<Batch>("/api/batches/series", { method: "POST", body: { photos, what } }),
  exportMany: (photos: number[], settings: ManySettings, versions: boolean, into_folder: boolean) =>
    request<Batch>("/api/batches/export", { method: "POST", body: { photos, export: settings, versions, into_folder } }),
  giveTitles: (photos: number[], pattern: string) => request<Batch>("/api/batches/title", { method: "POST", body: { photos, pattern } }),
  cancelBatch: (id: number) => request<Batch>(`/api/batches/${id}`, { method: "DELETE" }),
  changeBatch: (id: number, what: "retry" | "undo") => request<Batch>(`/api/batches/${id}/${what}`, { method: "POST" }),
  removeAll: (photos: number[]) => request<{ count: number }>("/api/photos/remove", { method: "POST", body: { photos } }),
  restoreAll: (photos: number[]) => request<{ count: number }>("/api/photos/restore", { method: "POST", body: { photos } }),
  putAside: (photos: number[], aside: boolean) => request<void>("/api/photos/aside", { method: "POST", body: { photos, aside } }),
  makeGroup: (name: string, photos: number[]) => request<{ id: number; name: string }>("/api/groups", { method: "POST", body: { name, photos } }),
  fillGroup: (id: number, photos: number[]) => request<void>(`/api/groups/${id}/photos`, { method: "POST", body: { photos } }),
  takeOutOfGroup: (id: number, photos: number[]) => request<void>(`/api/groups/${id}/take-out`, { method: "POST", body: { photos } }),
  removeGroup: (id: number) => request<void>(`/api/groups/${id}`, { method: "DELETE" }),
  goingOn: () => request<GoingOn>("/api/going-on"),
  review: (id: number) => request<Review>(`/api/photos/${id}/review`),
  /** Take what was found as far as an extent, and turn the picture clockwise. */
  decide: (photo: Photo, extent: ReviewExtent["extent"], turn: number) =>
    request<Photo>(`/api/photos/${photo.id}/review`, { method: "POST", body: { extent, turn }, version: photo.version }),
  rename: (photo: Photo, title: string) =>
    request<Photo>(`/api/photos/${photo.id}`, { method: "PATCH", body: { title }, version: photo.version }),
  remove: ({ id, version }: Photo) => request<void>(`/api/photos/${id}`, { method: "DELETE", version }),
  recover: ({ id, version }: Photo) => request<Photo>(`/api/photos/${id}/recover`, { method: "POST", version }),
  restore: (id: number) => request<Photo>(`/api/photos/${id}/restore`, { method: "POST" }),
  bench: (id: number) => request<Bench>(`/api/photos/${id}`),
  /** `after`: the recipe after the action too. */
  evaluate: (recipe: Recipe, action: Action | null, { choices = false, after = false }) =>
    request<Look>("/api/evaluate", { method: "POST", body: { recipe, action, choices, after } }),
  revise: (photo: Photo, action: Action) =>
    request<Revised>(`/api/photos/${photo.id}/revise`, { method: "POST", body: action, version: photo.version }),
  profiles: (id: number, words: string) =>
    request<Profiles>(`/api/photos/${id}/profiles?words=${encodeURIComponent(words)}`),
  under: (id: number, recipe: Recipe, lines: StillWire[]) =>
    request<{ words: string[] }>(`/api/photos/${id}/under`, { method: "POST", body: { recipe, lines } }).then(({ words }) => words),
  /** The log from before a revision on, the newest first; 0: from the newest on. */
  revisions: (id: number, before: number) => request<Revisions>(`/api/photos/${id}/revisions${before ? `?before=${before}` : ""}`),
  /** One step, or all of them, as when the photo was imported. */
  reset: (photo: Photo, part: Schemas["ResetIn"]["part"]) =>
    request<Bench>(`/api/photos/${photo.id}/reset`, { method: "POST", body: { part }, version: photo.version }),
  revision: (id: number, revision: number) => request<Seen>(`/api/photos/${id}/revisions/${revision}`),
  step: (photo: Photo, way: "undo" | "redo") =>
    request<Bench>(`/api/photos/${photo.id}/${way}`, { method: "POST", version: photo.version }),
  turn: (photo: Photo, direction: "left" | "right") =>
    request<Bench>(`/api/photos/${photo.id}/turn`, { method: "POST", body: { direction }, version: photo.version }),
  returnTo: (photo: Photo, revision: number) =>
    request<Bench>(`/api/photos/${photo.id}/revisions/${revision}/return`, { method: "POST", version: photo.version }),
  /** What Sequor finds in a photo by itself. */
  found: (id: number) => request<Found>(`/api/photos/${id}/found`),
  costs: (recipe: Recipe) => request<{ rows: CostRow[] }>("/api/costs", { method: "POST", body: { recipe } }).then(({ rows }) => rows),
  views: (recipe: Recipe) => request<{ rows: ViewRow[] }>("/api/views", { method: "POST", body: { recipe } }).then(({ rows }) => rows),
  edges: (recipe: Recipe) => request<Edges>("/api/edges", { method: "POST", body: { recipe } }),
  /** Takes of the corners (""), or of a touch-up by its id. */
  takes: (id: number, touchUp = "") => request<Takes>(`/api/photos/${id}/takes?touch_up=${touchUp}`),
  askTakes: (id: number, seeds: number[], touchUp = "") =>
    request<Takes>(`/api/photos/${id}/takes`, { method: "POST", body: { seeds, touch_up: touchUp } }),
  cancelTake: (id: number, take: number, touchUp = "") =>
    request<Takes>(`/api/photos/${id}/takes/${take}?touch_up=${touchUp}`, { method: "DELETE" }),
  /** What was set up at the start, and who has signed in. */
  session: async () => {
    const session = await request<Schemas["SessionOut"]>("/api/session");
    if (session.network && session.account === null) askToSignIn();
    return session;
  },
  signIn: (name: string, password: string) => request<void>("/api/sign-in", { method: "POST", body: { name, password } }),
  signOut: () => request<void>("/api/sign-out", { method: "POST" }),
  signOutEverywhere: () => request<void>("/api/sign-out-everywhere", { method: "POST" }),
  changePassword: (old: string, next: string) => request<void>("/api/password", { method: "POST", body: { old, new: next } }).then(forgetToken),
  /** Whether an outside painter was set up when the program was started. */
  painter: () => api.session().then(({ painter }) => painter),
  /** Whether a folder for exports was named then. */
  exportsFolder: () => api.session().then(({ exports }) => exports),
  shapes: () => request<Shapes>("/api/shapes"),
  ratios: () => request<{ ratios: OwnRatio[] }>("/api/ratios").then(({ ratios }) => ratios),
  keepRatio: (name: string, ratio: string) => request<OwnRatio>("/api/ratios", { method: "POST", body: { name, ratio } }),
  removeRatio: (id: number) => request<void>(`/api/ratios/${id}`, { method: "DELETE" }),
  versions: (id: number) => request<Versions>(`/api/photos/${id}/versions`),
  keepVersion: ({ id, version }: Photo, name: string) =>
    request<Versions>(`/api/photos/${id}/versions`, { method: "POST", body: { name }, version }),
  bringUp: ({ id, version }: Photo, held: number) => request<Versions>(`/api/photos/${id}/versions/${held}`, { method: "PUT", version }),
  removeVersion: ({ id, version }: Photo, held: number) =>
    request<Versions>(`/api/photos/${id}/versions/${held}`, { method: "DELETE", version }),
  restoreVersion: ({ id, version }: Photo, held: number) =>
    request<Versions>(`/api/photos/${id}/versions/${held}/restore`, { method: "POST", version }),
  /** `versions` by their ids, into one file; `now`: what is true now along with them. */
  export: (id: number, settings: ExportSettings, versions: number[], now: boolean) =>
    request<Job>(`/api/photos/${id}/exports`, { method: "POST", body: { export: settings, versions, now } }),
  /** What the files of an export would be called. */
  exportNames: (id: number, settings: ExportSettings, versions: number[], now: boolean) =>
    request<{ names: string[] }>(`/api/photos/${id}/export-names`, { method: "POST", body: { export: settings, versions, now } }).then(({ names }) => names),
  /** Take up the steps of an exported picture on its original. */
  takeUp: (job: string) => request<Bench>(`/api/jobs/${job}/steps`, { method: "POST" }),
  job: (id: string) => request<Job>(`/api/jobs/${id}`),
  cancel: (id: string) => request<Job>(`/api/jobs/${id}`, { method: "DELETE" }),
};

interface Sending {
  /** A photo of its own, also where it was exported from one that is here. */
  alone?: boolean;
  /** The stack that the file comes with. */
  batch?: number | null;
}

/** Send a file; `progress` hears the share that has left. */
export async function upload(file: File, progress: (share: number) => void, signal: AbortSignal, { alone, batch }: Sending = {}): Promise<Job> {
  const own = await changeToken();
  return new Promise((resolve, reject) => {
    const sending = new XMLHttpRequest();
    sending.open("POST", `/api/imports?name=${encodeURIComponent(file.name)}${alone ? "&own" : ""}${batch ? `&batch=${batch}` : ""}`);
    sending.setRequestHeader("X-Sequor-Token", own);
    sending.setRequestHeader("Content-Type", "application/octet-stream");
    sending.upload.onprogress = (event) => progress(event.loaded / Math.max(1, event.total));
    sending.onload = () => {
      if (sending.status === 401) askToSignIn();
      if (sending.status < 300) resolve(JSON.parse(sending.responseText) as Job);
      else reject(new Problem(sending.status, "Refused", refusal(sending)));
    };
    sending.onerror = () => reject(new Problem(0, "No answer", "The file could not be uploaded. Nothing was added; please try again."));
    signal.addEventListener("abort", () => {
      sending.abort();
      reject(new Problem(0, "Stopped", "stopped"));
    });
    sending.send(file);
  });
}

function refusal(sending: XMLHttpRequest): string {
  if (sending.status === 413) return "This file is larger than 1,250 MB. Nothing was added; save a smaller copy and import that.";
  try {
    return (JSON.parse(sending.responseText) as { detail: string }).detail;
  } catch {
    return "This file could not be imported. Nothing was added.";
  }
}
