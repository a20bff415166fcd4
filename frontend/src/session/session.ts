import { createStore } from "zustand/vanilla";

import { api, type Bench, type Evaluation, type FrameAsk, type Framed, type Photo, Problem, type Recipe } from "../api/client";
import type { Mesh } from "./mesh";
import { type Change, type Desk, type Led, type Seen, type StepName, TIDY_DESK, unpacked } from "./model";
import { Trail } from "./trail";

/** What is being dragged or typed: the recipe as it would be. `follow`: the picture follows it live. */
interface Draft {
  recipe: Recipe;
  follow: boolean;
  led: Led | null;
}

/** What is known of the photo; written by its session alone. */
export interface Known {
  /** What the server last said of it. */
  bench: Bench | null;
  seen: Seen | null;
  draft: Draft | null;
  /** The recipe with the actions that are on their way to the server; null when all have arrived. */
  kept: Recipe | null;
  /** What the draft evaluates to; null until the first answer. */
  glimpse: Seen | null;
  /** The mesh carried on to where the hand is, until the exact one is there. */
  foreseen: Mesh | null;
  notice: string | null;
  /** Whether the photo was changed elsewhere, so that the page shows what is no longer true. */
  stale: boolean;
}

const NOTHING: Known = { bench: null, seen: null, draft: null, kept: null, glimpse: null, foreseen: null, notice: null, stale: false };
const LET_GO = { draft: null, glimpse: null, foreseen: null };
const SETTLE_MS = 600;

const CHANGED = "This photo was changed in another window. What you see now is the newest.";

/** The recipe without what is being dragged: what the next action starts from. */
export const baseNow = ({ kept, bench }: Known): Recipe | null => kept ?? bench?.recipe ?? null;

/** The recipe as it stands, whatever is dragged included. */
export const recipeNow = (known: Known): Recipe | null => known.draft?.recipe ?? baseNow(known);

/** What the picture shows: it follows a draft only where that was asked for. */
export const shownNow = ({ draft, glimpse, seen }: Known): Seen | null => (draft?.follow ? glimpse : null) ?? seen;

/** What the readings say: they always follow. */
export const readNow = ({ glimpse, seen }: Known): Seen | null => glimpse ?? seen;

/** The mesh that is drawn: it does not wait for the server where it can be foreseen. */
export const meshNow = (known: Known): Mesh | null => (known.draft?.follow ? known.foreseen : null) ?? shownNow(known)?.mesh ?? null;

/**
 * One opened photo: what is known of it, the queue of actions on it, and what is on the page meanwhile. Every action and
 * every answer belongs to the session it was made in; what was asked for one photo cannot reach another.
 */
export class Session {
  readonly known = createStore<Known>(() => NOTHING);
  readonly desk = createStore<Desk>(() => TIDY_DESK);
  /** Actions go one after another, each on the version that the one before it left. */
  private chain: Promise<unknown> = Promise.resolve();
  /** Until offers and presets of what is true now are there. */
  private choices: Promise<unknown> = Promise.resolve();
  /** What the keys have done and is kept once they rest. */
  private pending: { change: Change; action: string } | null = null;
  private settling: ReturnType<typeof setTimeout> | undefined;
  private looking = false;
  private left = false;
  private readonly trail = new Trail();
  /** What takes are waited for, by what they are made for. */
  readonly awaited = new Set<string>();

  /** `unkept` hears in words what was not kept once the photo was left. */
  constructor(
    readonly photo: number,
    private readonly unkept: (words: string) => void = () => undefined,
  ) {}

  /** Read the photo, when what is still to be done before is done. */
  async open(before: Promise<unknown> = Promise.resolve()) {
    this.left = false;
    this.known.setState({ notice: null, stale: false });
    await before;
    try {
      const bench = await api.bench(this.photo);
      if (!this.left) this.take(bench, null);
    } catch (problem) {
      if (!this.left) this.report(problem);
    }
  }

  /** Begin with what is at hand already. */
  openWith(bench: Bench, seen: Seen) {
    this.known.setState({ ...NOTHING, bench, seen });
  }

  /** Leave the photo: what the keys have done is kept now, and the queue is finished. */
  close(): Promise<void> {
    this.left = true;
    this.known.setState(LET_GO);
    return this.keepPending();
  }

  /** Read the photo anew: something was done to it that this page has not seen. */
  refresh(): Promise<void> {
    return this.inTurn(async () => this.take(await api.bench(this.photo), null));
  }

  /** Look whether the photo was changed elsewhere, and show the newest if it was. */
  catchUp(): Promise<void> {
    return this.inTurn(async ({ photo }) => {
      const bench = await api.bench(this.photo);
      if (this.left || bench.photo.version === photo.version) return;
      this.take(bench, null);
      this.known.setState({ notice: CHANGED });
    });
  }

  /** Look at a change while it is dragged: one request at a time, and the newest draft wins. */
  look(change: Change, follow: boolean, led: Led | null = null) {
    const base = baseNow(this.known.getState());
    if (!base) return;
    this.known.setState({ draft: { recipe: change(base), follow, led }, foreseen: led && this.trail.at(led) });
    if (!this.looking) void this.lookOn();
  }

  /** Learn how the picture moves with a number that is about to be led, from where it stands to a little beyond. */
  foresee(here: Led, beside: Led, change: Change) {
    const { seen } = this.known.getState();
    const base = baseNow(this.known.getState());
    if (!seen || !base) return;
    this.trail.forget(here.name);
    this.trail.add(here, seen.mesh);
    this.see(change(base), base, false, seen).then(
      ({ mesh }) => this.trail.add(beside, mesh),
      () => undefined,
    );
  }

  private async lookOn() {
    this.looking = true;
    for (let done: Draft | null = null; ; ) {
      const { draft, seen } = this.known.getState();
      if (!draft || draft === done) break;
      try {
        const glimpse = await this.see(draft.recipe, baseNow(this.known.getState()), false, seen);
        if (draft.led) this.trail.add(draft.led, glimpse.mesh);
        const newest = this.known.getState().draft;
        if (newest) this.known.setState({ glimpse, foreseen: newest === draft || !newest.led ? null : this.trail.at(newest.led) });
      } catch (problem) {
        if (!this.left) this.report(problem);
        break;
      }
      done = draft;
    }
    this.looking = false;
  }

  /** Let go of what was dragged without keeping it. */
  dropDraft() {
    this.known.setState(LET_GO);
  }

  /** Keep a completed action as a revision; the lines named in `snap` become the real edges under them first. */
  keep(change: Change, action: string, snap: string[] = []): Promise<void> {
    clearTimeout(this.settling);
    this.pending = null;
    const state = this.known.getState();
    const base = baseNow(state);
    if (!base) return Promise.resolve();
    const kept = change(base);
    const follow = state.draft?.follow ?? false;
    const draft: Draft = { recipe: kept, follow, led: null };
    const { glimpse, seen, foreseen } = state;
    // What was seen of it while it was dragged is so near that the picture can ease there at once.
    if (this.left) this.known.setState({ kept });
    else if (glimpse && seen && !follow) this.known.setState({ ...LET_GO, kept, seen: withChoicesOf(glimpse, seen) });
    else this.known.setState({ kept, draft, foreseen });
    return this.inTurn(async (bench) => {
      this.take(await api.revise(bench.photo, change(bench.recipe), action, snap), draft);
      if (this.known.getState().kept === kept) this.known.setState({ kept: null });
    });
  }

  /** Keep what the keys do once they rest, so that a row of key presses is one action. */
  keepSoon(change: Change, action: string, follow: boolean, led: Led | null = null) {
    this.look(change, follow, led);
    clearTimeout(this.settling);
    this.pending = { change, action };
    this.settling = setTimeout(() => void this.keepPending(), SETTLE_MS);
  }

  keepPending(): Promise<void> {
    clearTimeout(this.settling);
    const { pending } = this;
    return pending ? this.keep(pending.change, pending.action) : this.chain.then(() => undefined);
  }

  /**
   * Keep what was chosen among offers or presets. They carry whole recipes, so a choice waits for the actions on their
   * way and is looked up again in what is true then; when the question is gone, nothing happens.
   */
  async keepChoice(pick: (seen: Seen) => Recipe | undefined, action: string) {
    await this.keepPending();
    await this.chain;
    await this.choices;
    const { seen } = this.known.getState();
    const recipe = seen ? pick(seen) : undefined;
    if (recipe) await this.keep(() => recipe, action);
  }

  /**
   * What becomes of the frame when something is done to it. It is kept at once; when it cannot be done as asked, the
   * nearest is only told. A refusal comes back as its words.
   */
  async keepFramed(ask: FrameAsk): Promise<Framed | string | null> {
    await this.keepPending();
    await this.chain;
    const base = baseNow(this.known.getState());
    if (!base) return null;
    try {
      const framed = await api.frame(base, ask);
      // What was done meanwhile is not to be undone: it is asked again, of what is true now.
      if (baseNow(this.known.getState()) !== base) return await this.keepFramed(ask);
      if (framed.done) await this.keep(() => framed.recipe, framed.action);
      return framed;
    } catch (problem) {
      if (problem instanceof Problem && problem.status === 422) return problem.message;
      this.report(problem);
      return null;
    }
  }

  step(way: "undo" | "redo"): Promise<void> {
    return this.afterPending(async (bench) => {
      if (way === "undo" ? bench.can_undo : bench.can_redo) this.take(await api.step(bench.photo, way), null);
    });
  }

  turnQuarter(direction: "left" | "right"): Promise<void> {
    return this.afterPending(async (bench) => this.take(await api.turn(bench.photo, direction), null));
  }

  /** Make an older state the present one; all that came after it stays in the log. */
  returnTo(revision: number): Promise<void> {
    return this.afterPending(async (bench) => this.take(await api.returnTo(bench.photo, revision), null));
  }

  /** One step, or all of them, as when the photo was imported. */
  reset(part: StepName | "all"): Promise<void> {
    return this.afterPending(async (bench) => this.take(await api.reset(bench.photo, part), null));
  }

  /** Change something that is kept beside the recipe, which counts as a change of the photo. Throws Problem. */
  async changeBeside(work: (photo: Photo) => Promise<{ version: number }>): Promise<void> {
    let failed: unknown = null;
    await this.afterPending(async ({ photo }) => {
      try {
        const { version } = await work(photo);
        this.known.setState(({ bench }) => ({ bench: bench && { ...bench, photo: { ...bench.photo, version } } }));
      } catch (problem) {
        failed = problem;
      }
    });
    if (failed) throw failed as Error;
  }

  /** Tell something in words on the page. */
  tell(notice: string | null) {
    if (!this.left) this.known.setState({ notice });
  }

  private afterPending(work: (bench: Bench) => Promise<void>): Promise<void> {
    void this.keepPending();
    return this.inTurn(work);
  }

  /** Do something with the photo when its turn comes. */
  private inTurn(work: (bench: Bench) => Promise<void>): Promise<void> {
    const next = this.chain
      .then(async () => {
        const { bench } = this.known.getState();
        if (bench) await work(bench);
      })
      .catch((problem: unknown) => this.report(problem));
    this.chain = next;
    return next;
  }

  /** `choices`: offers and presets too, which take longer; while something is dragged those from before stay. */
  private async see(recipe: Recipe, before: Recipe | null, choices: boolean, beside: Seen | null): Promise<Seen> {
    // Only a frame that was drawn follows what was there before.
    return seenAs(await api.evaluate(recipe, recipe.frame.rect ? before : null, choices), recipe, beside);
  }

  private take(bench: Bench, kept: Draft | null) {
    const before = this.known.getState();
    const quick = seenAs(bench.evaluation, bench.recipe, before.seen);
    const seen = before.seen ? withChoicesOf(quick, before.seen) : quick;
    const untouched = before.draft === null || before.draft === kept;
    this.known.setState({ bench, seen, ...(untouched && LET_GO) });
    const { selected } = this.desk.getState();
    if (selected && !bench.recipe.references.some((one) => one.id === selected)) this.desk.setState({ selected: null });
    // The next action does not wait for offers; those of a photo that was left are needed only for a choice.
    this.choices = this.see(bench.recipe, null, true, seen).then(
      (whole) => {
        if (this.known.getState().seen === seen) this.known.setState({ seen: withChoicesOf(seen, whole) });
      },
      () => undefined,
    );
  }

  private report(problem: unknown) {
    const stale = problem instanceof Problem && problem.status === 412;
    const words = stale
      ? "This photo was changed in another window. Your last action was not kept; show the newest and do it again."
      : problem instanceof Problem
        ? problem.message
        : "That did not work. What was stored before is safe.";
    const { bench, seen } = this.known.getState();
    if (this.left) {
      this.known.setState({ kept: null });
      const title = bench?.photo.title;
      const why = stale ? "It was changed in another window; open it and do it again." : words;
      this.unkept(`The last action on ${title ? `“${title}”` : "the photo before"} was not kept. ${why}`);
      return;
    }
    this.known.setState({ ...LET_GO, notice: words, stale, kept: null });
    if (!bench) return;
    // What was shown ahead of the answer is put back, unless the page has moved on meanwhile.
    void this.see(bench.recipe, null, true, seen).then(
      (back) => {
        if (this.known.getState().bench === bench) this.known.setState({ seen: back });
      },
      () => undefined,
    );
  }
}

/** Under the same map the picture need not be drawn again. */
function seenAs(evaluation: Evaluation, recipe: Recipe, beside: Seen | null): Seen {
  if (beside?.map === evaluation.map) return { ...evaluation, mesh: beside.mesh, outline: beside.outline };
  return unpacked(evaluation, recipe);
}

/** Offers and presets take longer to find out: until they are there, those from before stay. */
const withChoicesOf = (seen: Seen, before: Seen): Seen => ({ ...seen, offers: before.offers, presets: before.presets, advice: before.advice });
