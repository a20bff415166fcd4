import { replaceEqualDeep } from "@tanstack/react-query";
import { createStore } from "zustand/vanilla";

import { type Action, api, type Bench, type Evaluation, type Photo, Problem, type Recipe } from "../api/client";
import { ahead } from "./ahead";
import type { Mesh } from "./mesh";
import { type Came, type Desk, type Led, type Seen, type StepName, TIDY_DESK, type Told, unpacked } from "./model";
import { Trail } from "./trail";

/**
 * What is being dragged, typed or pointed at: the action it would be, and the recipe as it looks with it, which is that of
 * the server where the page has no look of its own. `follow`: the picture follows it live.
 */
interface Draft {
  action: Action;
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
  /** What came of the last action, until anything changes. */
  came: Came | null;
  /** Whether the photo was changed elsewhere, so that the page shows what is no longer true. */
  stale: boolean;
}

const NOTHING: Known = { bench: null, seen: null, draft: null, kept: null, glimpse: null, foreseen: null, notice: null, came: null, stale: false };
const LET_GO = { draft: null, glimpse: null, foreseen: null };
const SETTLE_MS = 600;

const CHANGED = "This photo was changed in another window. You now see the latest.";

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
  /** What the keys have done and is kept once they rest. */
  private pending: Action | null = null;
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

  /** Look at an action while it is dragged: one request at a time, and the newest draft wins. */
  look(action: Action, follow: boolean, led: Led | null = null) {
    const state = this.known.getState();
    const base = baseNow(state);
    if (!base) return;
    const draft = { action, recipe: ahead(base, action, readNow(state)), follow, led };
    this.known.setState({ draft, foreseen: led && this.trail.at(led) });
    if (!this.looking) void this.lookOn();
  }

  /** Learn how the picture moves with a number that is about to be led, from where it stands to a little beyond. */
  foresee(here: Led, beside: Led, action: Action) {
    const { seen, bench } = this.known.getState();
    if (!seen || !bench) return;
    this.trail.forget(here.name);
    this.trail.add(here, seen.mesh);
    this.see(bench.recipe, action, seen).then(
      ({ seen: { mesh } }) => this.trail.add(beside, mesh),
      () => undefined,
    );
  }

  private async lookOn() {
    this.looking = true;
    for (let done: Action | null = null; ; ) {
      // What was let go of before comes first: the server is asked of what it knows.
      await this.chain;
      const { draft, seen, bench } = this.known.getState();
      if (!draft || !bench || draft.action === done) break;
      const { action } = draft;
      done = action;
      try {
        // What is dragged lies where the hand has it; what only a rule can say has to be asked for.
        const { seen: glimpse, recipe } = await this.see(bench.recipe, action, seen, { after: draft.recipe === bench.recipe });
        if (draft.led) this.trail.add(draft.led, glimpse.mesh);
        const newest = this.known.getState().draft;
        if (!newest) continue;
        const arrived = newest.action === action;
        const exact = arrived && recipe ? { ...newest, recipe: replaceEqualDeep(newest.recipe, recipe) } : newest;
        this.known.setState({ glimpse, draft: exact, foreseen: arrived || !newest.led ? null : this.trail.at(newest.led) });
      } catch (problem) {
        // What cannot be done is told when it is let go of; on the way there is nothing to see of it.
        if (problem instanceof Problem && problem.status === 422) continue;
        if (!this.left) this.report(problem);
        break;
      }
    }
    this.looking = false;
  }

  /** Let go of what was dragged without keeping it. */
  dropDraft() {
    this.known.setState(LET_GO);
  }

  /** Do an action: it is kept as a revision. What is to be told of it comes back. */
  async do(action: Action): Promise<Told | null> {
    const told = await this.done(action);
    // What was placed is answered beside the frame.
    if (told && !told.done && action.do !== "place") this.tell(told.words);
    return told;
  }

  /** The same where a refusal is told beside what was asked. */
  async ask(action: Action): Promise<void> {
    await this.done(action, (problem) => {
      if (problem instanceof Problem && problem.status === 422) return problem.message;
      throw problem;
    });
  }

  private async done(action: Action, refused?: (problem: unknown) => string): Promise<Told | null> {
    clearTimeout(this.settling);
    this.pending = null;
    const state = this.known.getState();
    const base = baseNow(state);
    if (!base) return null;
    const { draft: before, glimpse, seen, foreseen } = state;
    const looked = before?.action === action;
    const kept = looked ? before.recipe : { ...ahead(base, action, readNow(state)) };
    const draft: Draft = { action, recipe: kept, follow: before?.follow ?? false, led: null };
    // What was seen of it while it was dragged is so near that the picture can ease there at once.
    if (this.left) this.known.setState({ kept });
    else if (glimpse && seen && !draft.follow) this.known.setState({ ...LET_GO, kept, seen: withChoicesOf(glimpse, seen) });
    else this.known.setState({ kept, draft, foreseen });
    let told: Told | null = null;
    await this.inTurn(async (bench) => {
      try {
        const revised = await api.revise(bench.photo, action);
        this.take(revised, action);
        told = { words: revised.words, done: revised.done };
        if (told.words) this.known.setState({ came: { ...told, action, refused: false } });
      } catch (problem) {
        if (!refused) throw problem;
        const words = refused(problem);
        this.take(bench, action);
        this.known.setState({ came: { words, done: false, action, refused: true } });
      }
      if (this.known.getState().kept === kept) this.known.setState({ kept: null });
    });
    return told;
  }

  /** Do what the keys do once they rest, so that a row of key presses is one action. */
  doSoon(action: Action, follow: boolean, led: Led | null = null) {
    this.look(action, follow, led);
    clearTimeout(this.settling);
    this.pending = action;
    this.settling = setTimeout(() => void this.keepPending(), SETTLE_MS);
  }

  async keepPending(): Promise<void> {
    clearTimeout(this.settling);
    if (this.pending) await this.do(this.pending);
    else await this.chain;
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

  /** Another title. */
  rename(title: string): Promise<void> {
    return this.afterPending(async ({ photo }) => {
      const renamed = await api.rename(photo, title);
      this.known.setState(({ bench }) => ({ bench: bench && { ...bench, photo: renamed } }));
    });
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
  private async see(recipe: Recipe, action: Action | null, beside: Seen | null, asked: { choices?: boolean; after?: boolean } = {}) {
    const { after, ...evaluation } = await api.evaluate(recipe, action, asked);
    return { seen: seenAs(evaluation, recipe, beside), recipe: after?.recipe ?? null };
  }

  private take(bench: Bench, done: Action | null) {
    const before = this.known.getState();
    const quick = seenAs(bench.evaluation, bench.recipe, before.seen);
    const asked = before.seen ? withChoicesOf(quick, before.seen) : quick;
    // A question about other lines is no longer the question.
    const sameLines = JSON.stringify(before.bench?.recipe.references) === JSON.stringify(bench.recipe.references);
    const seen = sameLines ? asked : { ...asked, offers: [] };
    const untouched = before.draft === null || before.draft.action === done;
    this.known.setState({ bench, seen, came: null, ...(untouched && LET_GO) });
    const { selected } = this.desk.getState();
    if (selected && !bench.recipe.references.some((one) => one.id === selected)) this.desk.setState({ selected: null });
    if (this.left) return;
    // The next action does not wait for offers.
    this.see(bench.recipe, null, seen, { choices: true }).then(
      ({ seen: whole }) => {
        if (this.known.getState().seen === seen) this.known.setState({ seen: withChoicesOf(seen, whole) });
      },
      () => undefined,
    );
  }

  private report(problem: unknown) {
    const stale = problem instanceof Problem && problem.status === 412;
    const words = stale
      ? "This photo was changed in another window, so your last change was not saved. Load the latest and repeat it."
      : problem instanceof Problem
        ? problem.message
        : "That did not work and was not saved. Everything before it is safe; please try again.";
    const { bench, seen } = this.known.getState();
    if (this.left) {
      this.known.setState({ kept: null });
      const title = bench?.photo.title;
      const why = stale ? "The photo was changed in another window; open it and repeat the change." : words;
      this.unkept(`Your last change to ${title ? `“${title}”` : "the previous photo"} was not saved. ${why}`);
      return;
    }
    this.known.setState({ ...LET_GO, notice: words, stale, kept: null });
    if (!bench) return;
    // What was shown ahead of the answer is put back, unless the page has moved on meanwhile.
    void this.see(bench.recipe, null, seen, { choices: true }).then(
      ({ seen: back }) => {
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
