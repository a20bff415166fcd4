import { create } from "zustand";

import { api, type Bench, type Edges, type Evaluation, type FrameAsk, type Framed, type Kind, type Photo, Problem, type Recipe, type Take, type Takes } from "../api/client";
import type { Drawing } from "./areas";
import { type Mesh, meshFrom } from "./mesh";
import { withReset } from "./recipeEdits";

export type StepName = "lens" | "lines" | "frame" | "edges" | "export";
export type LayKind = "slope" | Kind;
export type Shown = "corrected" | "taken" | "before";
export type Grid = "none" | "coarse" | "fine" | "square";
export type FramePage = "shape" | "compose" | "print";
export type EdgesPage = "corners" | "widen" | "touch up" | "donors";

/** Lines in the frame to compose by: those at fixed shares of it, and others. */
export const FAMILIES = ["thirds", "fifths", "golden", "centre", "diagonals", "spiral", "between walls", "margins"] as const;
export type Family = (typeof FAMILIES)[number];

/** A line that stands still on the screen; `at` is its place as a share of the stage, from its top or its left. */
export interface Still {
  id: number;
  way: "level" | "upright";
  at: number;
}

/** What stands on one side of a comparison: the photo as taken, what is true now, or a revision. */
export type Side = "before" | "now" | number;

export interface Comparison {
  way: "flick" | "wipe" | "side by side";
  left: Side;
  right: Side;
  /** Whether the flick shows the left one. */
  flipped: boolean;
}
export type Surround = "lighter" | "neutral" | "darker";

/** An evaluation with its mesh unpacked. */
export interface Seen extends Omit<Evaluation, "mesh"> {
  mesh: Mesh;
}

/** What is being dragged or typed: the recipe as it would be. `follow`: the picture follows it live. */
interface Draft {
  recipe: Recipe;
  follow: boolean;
}

interface BenchState {
  bench: Bench | null;
  seen: Seen | null;
  draft: Draft | null;
  /** The recipe with the actions that are on their way to the server; null when all have arrived. */
  kept: Recipe | null;
  /** What the draft evaluates to; null until the first answer. */
  glimpse: Seen | null;
  step: StepName;
  kind: LayKind;
  selected: string | null;
  /** The line that the pointer is at, on the picture or in the field book. */
  pointed: string | null;
  /** Whether a line that was laid is to become the real edge under it. */
  snap: boolean;
  /** Whether the step Lines is worked by verniers instead of lines. */
  byHand: boolean;
  still: Still[];
  /** What the picture does under each still line, in words. */
  under: Record<number, string>;
  comparison: Comparison | null;
  framePage: FramePage;
  /** The lines to compose by that are shown in the frame. */
  families: Family[];
  /** In which corner of the frame the golden spiral ends, of four. */
  spiral: number;
  /** The two plumb lines whose middle is meant; null: the first two. */
  walls: readonly [string, string] | null;
  /** How dark what lies outside the frame is veiled, 0 to 1. */
  veil: number;
  /** Whether the next click or drag on the picture marks the subject. */
  marking: boolean;
  /** The takes of the frame as it was last asked about. */
  takes: Takes | null;
  /** The take that the pointer is at, for one part of the empty area or for all of it. */
  pointedTake: { seed: number; part: string | null } | null;
  edgesPage: EdgesPage;
  /** What the next stroke on the picture draws; null: nothing, it moves the picture. */
  drawing: Drawing | null;
  /** Whether an area is drawn around, not brushed over. */
  around: boolean;
  /** The brush's radius in corrected pixels; null: as fits the photo. */
  brush: number | null;
  /** By how many pixels a touch-up runs out; null: as fits the photo. */
  feather: number | null;
  /** The touch-up or donor that is chosen. */
  area: string | null;
  /** The takes of touch-ups, by their ids, as they were last asked about. */
  touchTakes: Record<string, Takes>;
  /** The take of a touch-up that the pointer is at. */
  pointedTouch: { id: string; take: Take } | null;
  /** How much a reshaped picture is stretched where, while that is shown. */
  heat: Edges["heat"];
  /** Whether what is new is marked on the picture. */
  showNew: boolean;
  /** Whether the log stands in place of the field book. */
  log: boolean;
  /** The group that new receding lines belong to. */
  group: string;
  shown: Shown;
  grids: Record<StepName, Grid>;
  surround: Surround;
  magnifier: boolean;
  shortcuts: boolean;
  notice: string | null;
  stale: boolean;
  /** What was not kept of a photo that had been left already. */
  unkept: string | null;
}

/** An action as what it makes of a recipe, so that it can follow one that is still on its way. */
export type Change = (recipe: Recipe) => Recipe;

const SETTLE_MS = 600;

export const useBench = create<BenchState>(() => ({
  bench: null,
  seen: null,
  draft: null,
  kept: null,
  glimpse: null,
  step: "lines",
  kind: "slope",
  selected: null,
  pointed: null,
  snap: true,
  byHand: false,
  still: [],
  under: {},
  comparison: null,
  framePage: "shape",
  families: ["thirds"],
  spiral: 0,
  walls: null,
  veil: 0.62,
  marking: false,
  takes: null,
  pointedTake: null,
  edgesPage: "corners",
  drawing: null,
  around: false,
  brush: null,
  feather: null,
  area: null,
  touchTakes: {},
  pointedTouch: null,
  heat: null,
  showNew: true,
  log: false,
  group: "1",
  shown: "corrected",
  grids: { lens: "none", lines: "none", frame: "none", edges: "none", export: "none" },
  surround: "neutral",
  magnifier: true,
  shortcuts: true,
  notice: null,
  stale: false,
  unkept: null,
}));

const { setState: set, getState: get } = useBench;

/** The recipe without what is being dragged: what the next action starts from. */
export const baseNow = (state: BenchState): Recipe | null => state.kept ?? state.bench?.recipe ?? null;

/** The recipe as it stands, whatever is dragged included. */
export const recipeNow = (state: BenchState): Recipe | null => state.draft?.recipe ?? baseNow(state);

/** The kind of line that is laid next: at the step Lens only straight things are. */
export const layKindNow = (state: BenchState): LayKind => (state.step === "lens" ? "straight" : state.kind);

/** Whether lines are laid and moved on the stage now. */
export const laysLines = (state: BenchState): boolean =>
  state.step === "lens" ? recipeNow(state)?.lens.source === "straight" : state.step === "lines" && !state.byHand;

/** What the picture shows: it follows a draft only where that was asked for. */
export const shownNow = (state: BenchState): Seen | null =>
  (state.draft?.follow ? state.glimpse : null) ?? state.seen;

/** What the readings say: they always follow. */
export const readNow = (state: BenchState): Seen | null => state.glimpse ?? state.seen;

/**
 * One opened photo. Every action and every answer carries the session it was made in: what was asked for one photo
 * never reaches another, whatever is on the screen by then.
 */
interface Session {
  readonly photo: number;
  /** What the server last said of the photo; the actions of the queue start from it. */
  bench: Bench | null;
  seen: Seen | null;
  /** The recipe with the actions that are on their way; null when all have arrived. */
  kept: Recipe | null;
  /** Actions go one after another, each on the version that the one before it left. */
  chain: Promise<unknown>;
  /** Until offers and presets of what is true now are there. */
  choices: Promise<unknown>;
  /** What the keys have done and is kept once they rest. */
  pending: { change: Change; action: string } | null;
  settling: ReturnType<typeof setTimeout> | undefined;
  looking: boolean;
}

const newSession = (photo: number): Session => ({
  photo,
  bench: null,
  seen: null,
  kept: null,
  chain: Promise.resolve(),
  choices: Promise.resolve(),
  pending: null,
  settling: undefined,
  looking: false,
});

let session = newSession(0);

/** The session that is open; what takes time asks with it later whether it still is. */
export const openSession = (): Readonly<Session> => session;

/** What is shown, unless another photo is open by now. */
function show(own: Session, state: Partial<BenchState>) {
  if (state.seen !== undefined) own.seen = state.seen;
  if (own === session) set(state);
}

const baseOf = (own: Session): Recipe | null => own.kept ?? own.bench?.recipe ?? null;

function keepAhead(own: Session, kept: Recipe | null) {
  own.kept = kept;
  if (own === session) set({ kept });
}

/** `choices`: offers and presets too, which take longer; while something is dragged those from before stay. */
async function see(recipe: Recipe, before: Recipe | null, choices: boolean, beside: Seen | null): Promise<Seen> {
  // Only a frame that was drawn follows what was there before.
  return seenAs(await api.evaluate(recipe, recipe.frame.rect ? before : null, choices), recipe, beside);
}

/** Under the same map the picture need not be drawn again. */
function seenAs(evaluation: Evaluation, recipe: Recipe, beside: Seen | null): Seen {
  if (beside?.map === evaluation.map) return { ...evaluation, mesh: beside.mesh, outline: beside.outline };
  return unpacked(evaluation, recipe);
}

export const unpacked = (evaluation: Evaluation, { photo }: Recipe): Seen => ({
  ...evaluation,
  mesh: meshFrom(evaluation.mesh, photo.width, photo.height),
});

/** Open a photo. What is still on its way for the one before is finished in its own session. */
export async function openBench(photoId: number) {
  void closeBench();
  const own = (session = newSession(photoId));
  set({ bench: null, seen: null, draft: null, kept: null, glimpse: null, selected: null, pointed: null, notice: null, stale: false, shown: "corrected", step: "lines", byHand: false, still: [], under: {}, comparison: null, framePage: "shape", walls: null, marking: false, takes: null, pointedTake: null, edgesPage: "corners", drawing: null, brush: null, feather: null, area: null, touchTakes: {}, pointedTouch: null, heat: null, log: false });
  try {
    // Who comes back at once sees what was done before, not what it was on the way.
    await finishing.get(photoId);
    const bench = await api.bench(photoId);
    if (own === session) take(own, bench, null);
  } catch (problem) {
    if (own === session) report(own, problem);
  }
}

/** Open a photo of which all is at hand already. */
export function openWith(bench: Bench, seen: Seen) {
  session = { ...newSession(bench.photo.id), bench, seen };
  set({ bench, seen, draft: null, glimpse: null, kept: null });
}

/** Leave the photo: what the keys have done is kept now, and the queue is finished. */
export function closeBench(): Promise<unknown> {
  const left = session;
  session = newSession(0);
  const finished = Promise.all([finishing.get(left.photo), keepPendingOf(left)]).then(() => {
    if (finishing.get(left.photo) === finished) finishing.delete(left.photo);
  });
  finishing.set(left.photo, finished);
  return finished;
}

/** The queues of photos that were left, until they are empty. */
const finishing = new Map<number, Promise<unknown>>();

// A page that is put away keeps what the keys have done a moment ago.
window.addEventListener("pagehide", () => void keepPending());

/** Read the photo anew: something was done to it that this page has not seen. */
export function refresh(): Promise<void> {
  const own = session;
  return inTurn(own, async () => take(own, await api.bench(own.photo), null));
}

/** Look at a change while it is dragged: one request at a time, and the newest draft wins. */
export function look(change: Change, follow: boolean) {
  const base = baseOf(session);
  if (!base) return;
  set({ draft: { recipe: change(base), follow } });
  if (!session.looking) void lookOn(session);
}

async function lookOn(own: Session) {
  own.looking = true;
  for (let done: Draft | null = null; own === session && get().draft && get().draft !== done; ) {
    const draft = get().draft!;
    try {
      const glimpse = await see(draft.recipe, baseOf(own), false, own.seen);
      if (own === session && get().draft) set({ glimpse });
    } catch (problem) {
      if (own === session) report(own, problem);
      break;
    }
    done = draft;
  }
  own.looking = false;
}

/** Let go of what was dragged without keeping it. */
export function dropDraft() {
  set({ draft: null, glimpse: null });
}

/** Do something with the photo of a session when its turn comes. */
function inTurn(own: Session, work: (bench: Bench) => Promise<void>): Promise<void> {
  const next = own.chain
    .then(async () => {
      if (own.bench) await work(own.bench);
    })
    .catch((problem: unknown) => report(own, problem));
  own.chain = next;
  return next;
}

/** Keep a completed action as a revision; the lines named in `snap` become the real edges under them first. */
export const keep = (change: Change, action: string, snap: string[] = []): Promise<void> => keepIn(session, change, action, snap);

function keepIn(own: Session, change: Change, action: string, snap: string[] = []): Promise<void> {
  clearTimeout(own.settling);
  own.pending = null;
  const base = baseOf(own);
  if (!base) return Promise.resolve();
  const kept = change(base);
  let draft: Draft | null = null;
  keepAhead(own, kept);
  if (own === session) {
    draft = { recipe: kept, follow: get().draft?.follow ?? false };
    const { glimpse, seen } = get();
    // What was seen of it while it was dragged is so near that the picture can ease there at once.
    if (glimpse && seen && !draft.follow) show(own, { draft: null, glimpse: null, seen: withChoicesOf(glimpse, seen) });
    else set({ draft });
  }
  return inTurn(own, async (bench) => {
    take(own, await api.revise(bench.photo, change(bench.recipe), action, snap), draft);
    if (own.kept === kept) keepAhead(own, null);
  });
}

/**
 * Keep what was chosen among offers or presets. They carry whole recipes, so a choice waits for the actions on their way
 * and is looked up again in what is true then; when the question is gone, nothing happens.
 */
export async function keepChoice(pick: (seen: Seen) => Recipe | undefined, action: string) {
  const own = session;
  await keepPendingOf(own);
  await own.chain;
  await own.choices;
  const recipe = own.seen ? pick(own.seen) : undefined;
  if (recipe) await keepIn(own, () => recipe, action);
}

/**
 * What becomes of the frame when something is done to it. It is kept at once; when it cannot be done as asked, the
 * nearest is only told. A refusal comes back as its words.
 */
export const keepFramed = (ask: FrameAsk): Promise<Framed | string | null> => keepFramedIn(session, ask);

async function keepFramedIn(own: Session, ask: FrameAsk): Promise<Framed | string | null> {
  await keepPendingOf(own);
  await own.chain;
  const base = baseOf(own);
  if (!base) return null;
  try {
    const framed = await api.frame(base, ask);
    // What was done meanwhile is not to be undone: it is asked again, of what is true now.
    if (baseOf(own) !== base) return await keepFramedIn(own, ask);
    if (framed.done) await keepIn(own, () => framed.recipe, framed.action);
    return framed;
  } catch (problem) {
    if (problem instanceof Problem && problem.status === 422) return problem.message;
    report(own, problem);
    return null;
  }
}

/** Keep what the keys do once they rest, so that a row of key presses is one action. */
export function keepSoon(change: Change, action: string, follow: boolean) {
  const own = session;
  look(change, follow);
  clearTimeout(own.settling);
  own.pending = { change, action };
  own.settling = setTimeout(() => void keepPendingOf(own), SETTLE_MS);
}

export const keepPending = (): Promise<void> => keepPendingOf(session);

function keepPendingOf(own: Session): Promise<void> {
  clearTimeout(own.settling);
  const { pending } = own;
  return pending ? keepIn(own, pending.change, pending.action) : own.chain.then(() => undefined);
}

export function step(way: "undo" | "redo") {
  const own = session;
  void keepPendingOf(own);
  return inTurn(own, async (bench) => {
    if (way === "undo" ? bench.can_undo : bench.can_redo) take(own, await api.step(bench.photo, way), null);
  });
}

export function turnQuarter(direction: "left" | "right") {
  const own = session;
  void keepPendingOf(own);
  return inTurn(own, async (bench) => take(own, await api.turn(bench.photo, direction), null));
}

/** Make an older state the present one; all that came after it stays in the log. */
export function returnTo(revision: number) {
  const own = session;
  void keepPendingOf(own);
  return inTurn(own, async (bench) => take(own, await api.returnTo(bench.photo, revision), null));
}

/** One step, or all of them, as when the photo was imported. */
export function reset(part: StepName | "all", action: string) {
  const own = session;
  void keepPendingOf(own);
  return inTurn(own, async (bench) => {
    const [first] = await api.revisions(bench.photo.id);
    const { recipe } = await api.revision(bench.photo.id, first!.id);
    take(own, await api.revise(bench.photo, withReset(bench.recipe, recipe, part), action, []), null);
  });
}

/** Change something that is kept beside the recipe, which counts as a change of the photo. Throws Problem. */
export async function changeBeside(work: (photo: Photo) => Promise<{ version: number }>): Promise<void> {
  const own = session;
  await keepPendingOf(own);
  let failed: unknown = null;
  await inTurn(own, async ({ photo }) => {
    try {
      const { version } = await work(photo);
      own.bench = own.bench && { ...own.bench, photo: { ...own.bench.photo, version } };
      show(own, { bench: own.bench });
    } catch (problem) {
      failed = problem;
    }
  });
  if (failed) throw failed as Error;
}

/** Offers and presets take longer to find out: until they are there, those from before stay. */
const withChoicesOf = (seen: Seen, before: Seen): Seen => ({ ...seen, offers: before.offers, presets: before.presets, advice: before.advice });

function take(own: Session, bench: Bench, kept: Draft | null) {
  const quick = seenAs(bench.evaluation, bench.recipe, own.seen);
  const seen = own.seen ? withChoicesOf(quick, own.seen) : quick;
  own.bench = bench;
  own.seen = seen;
  if (own === session) {
    const untouched = get().draft === null || get().draft === kept;
    set(untouched ? { bench, seen, draft: null, glimpse: null } : { bench, seen });
    const { selected } = get();
    if (selected && !bench.recipe.references.some((one) => one.id === selected)) set({ selected: null });
  }
  // The next action does not wait for offers; those of a photo that was left are needed only for a choice.
  own.choices = see(bench.recipe, null, true, seen).then(
    (whole) => {
      if (own.seen === seen) show(own, { seen: withChoicesOf(seen, whole) });
    },
    () => undefined,
  );
}

function report(own: Session, problem: unknown) {
  const stale = problem instanceof Problem && problem.status === 412;
  const words = stale
    ? "This photo was changed in another window. Your last action was not kept; show the newest and do it again."
    : problem instanceof Problem
      ? problem.message
      : "That did not work. What was stored before is safe.";
  own.kept = null;
  if (own !== session) {
    const title = own.bench?.photo.title;
    const why = stale ? "It was changed in another window; open it and do it again." : words;
    set({ unkept: `The last action on ${title ? `“${title}”` : "the photo before"} was not kept. ${why}` });
    return;
  }
  set({ notice: words, stale, draft: null, kept: null, glimpse: null });
  const { bench } = own;
  if (!bench) return;
  // What was shown ahead of the answer is put back, unless the page has moved on meanwhile.
  const putBack = (seen: Seen) => own.bench === bench && show(own, { seen });
  void see(bench.recipe, null, true, own.seen).then(putBack, () => undefined);
}
