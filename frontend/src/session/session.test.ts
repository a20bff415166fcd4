import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { type Action, api, type Bench, type Photo, Problem, type Recipe, type Revised } from "../api/client";
import { closeSession, newSession, openSession, useUnkept } from "./open";
import { recipeNow, type Session } from "./session";

/** A server for some photos that answers each request when it is told to. */
class Held {
  readonly stored: Record<number, string[]> = { 1: [], 2: [] };
  private readonly waiting: (() => void)[] = [];

  async answer<T>(make: () => T): Promise<T> {
    await new Promise<void>((resolve) => this.waiting.push(resolve));
    return make();
  }

  bench(id: number): Bench {
    const actions = this.stored[id]!;
    const photo = { id, title: `Photo ${id}`, version: actions.length, revision: actions.length } as Photo;
    const recipe = { photo: { width: 3, height: 2, quarter_turns: 0 }, references: [], frame: { rect: null }, made: actions.join(",") } as unknown as Recipe;
    const evaluation = { map: `${id} ${actions.length}`, mesh: { columns: 1, rows: 1, vertices: "" }, offers: null, presets: null };
    return { photo, recipe, can_undo: true, can_redo: true, action: "", evaluation } as unknown as Bench;
  }

  store(photo: Photo, action: string): Revised {
    if (photo.version !== this.stored[photo.id]!.length) throw new Problem(412, "Changed", "changed");
    this.stored[photo.id]!.push(action);
    return { ...this.bench(photo.id), words: "", done: true };
  }

  /** Let the requests be answered, the one that `pick` names first, until none is left. */
  async settle(pick: (waiting: number) => number = () => 0) {
    for (let quiet = 0; quiet < 3; ) {
      await new Promise((resolve) => setTimeout(resolve, 0));
      if (this.waiting.length) {
        quiet = 0;
        this.waiting.splice(pick(this.waiting.length), 1)[0]!();
      } else quiet++;
    }
  }
}

let held: Held;
let open: Session | null = null;

/** Open a photo as the page does: the one before is left. */
function go(photo: number): Session {
  if (open) void closeSession(open);
  open = newSession(photo);
  void openSession(open);
  return open;
}

beforeEach(() => {
  held = new Held();
  vi.spyOn(api, "bench").mockImplementation((id) => held.answer(() => held.bench(id)));
  vi.spyOn(api, "revise").mockImplementation((photo, action) => held.answer(() => held.store(photo, nameOf(action))));
  vi.spyOn(api, "step").mockImplementation((photo, way) => held.answer(() => held.store(photo, way)));
  vi.spyOn(api, "returnTo").mockImplementation((photo, to) => held.answer(() => held.store(photo, `to ${to}`)));
  vi.spyOn(api, "evaluate").mockImplementation((recipe) =>
    held.answer(() => ({ map: (recipe as unknown as { made: string }).made, mesh: { columns: 1, rows: 1, vertices: "" }, offers: [], presets: [], angles: [], after: null }) as never),
  );
});

afterEach(async () => {
  await held.settle();
  if (open) void closeSession(open);
  open = null;
  useUnkept.setState({ words: null });
  vi.restoreAllMocks();
});

/** Something that is done, by a name of its own. */
const named = (name: string): Action => ({ do: "way", name });
const nameOf = (action: Action): string => (action.do === "way" ? action.name : action.do);

describe("the session of a photo", () => {
  it("does not let a late answer of one photo draw another", async () => {
    const one = go(1);
    const two = go(2);
    // The answer for 2 comes first, that for 1 last.
    await held.settle((waiting) => waiting - 1);
    expect(two.known.getState().bench?.photo.id).toBe(2);
    expect(two.known.getState().seen?.map).toContain("2 ");
    expect(one.known.getState().bench).toBeNull();
  });

  it("finishes the queue of the photo that is left, in that photo", async () => {
    const one = go(1);
    await held.settle();
    void one.do(named("a"));
    void one.do(named("b"));
    void one.step("undo");
    void one.returnTo(0);
    const two = go(2);
    void two.do(named("too early for 2"));
    await held.settle((waiting) => waiting - 1);
    expect(held.stored).toEqual({ 1: ["a", "b", "undo", "to 0"], 2: [] });
    expect(two.known.getState()).toMatchObject({ kept: null, draft: null });
    expect(useUnkept.getState().words).toBeNull();
    void two.do(named("c"));
    await held.settle();
    expect(held.stored[2]).toEqual(["c"]);
  });

  it("keeps what the keys did a moment before the photo was left", async () => {
    const one = go(1);
    await held.settle();
    one.doSoon(named("nudged"), true);
    go(2);
    await held.settle();
    expect(held.stored).toEqual({ 1: ["nudged"], 2: [] });
  });

  it("says what was not kept of a photo that was left", async () => {
    const one = go(1);
    await held.settle();
    void one.do(named("a"));
    held.stored[1]!.push("from another window");
    const two = go(2);
    await held.settle();
    expect(useUnkept.getState().words).toMatch(/Your last change to “Photo 1” was not saved.*another window/);
    expect(two.known.getState()).toMatchObject({ notice: null, stale: false });
    expect(two.known.getState().bench?.photo.id).toBe(2);
  });

  it("shows the newest, and says so, when the photo was changed elsewhere", async () => {
    const one = go(1);
    await held.settle();
    held.stored[1]!.push("from another window");
    void one.catchUp();
    await held.settle();
    expect(one.known.getState().notice).toMatch(/changed in another window.*latest/);
    void one.do(named("on top of it"));
    await held.settle();
    expect(held.stored[1]).toEqual(["from another window", "on top of it"]);
  });

  it("does not make an action wait for the offers", async () => {
    const one = go(1);
    // The bench is answered; the offers of it are held back from then on.
    await held.settle((waiting) => waiting - 1);
    const offers = vi.spyOn(api, "evaluate").mockImplementation(() => new Promise(() => undefined));
    void one.do(named("a"));
    void one.do(named("b"));
    await held.settle();
    expect(held.stored[1]).toEqual(["a", "b"]);
    expect(offers).toHaveBeenCalled();
  });

  it("puts back what was shown ahead, and gives the words, when an action that is asked for is refused", async () => {
    const one = go(1);
    await held.settle();
    const before = one.known.getState().seen;
    vi.spyOn(api, "revise").mockRejectedValueOnce(new Problem(422, "Recipe refused", "mark the subject first"));
    void one.ask({ do: "around" });
    await held.settle();
    const came = { words: "mark the subject first", done: false, refused: true };
    expect(one.known.getState()).toMatchObject({ notice: null, kept: null, draft: null, came });
    expect(one.known.getState().seen?.map).toBe(before?.map);
  });

  it("tells a refusal of what was done as a notice, and does what comes after it", async () => {
    const one = go(1);
    await held.settle();
    vi.spyOn(api, "revise").mockRejectedValueOnce(new Problem(422, "Recipe refused", "this line is not there any more"));
    void one.do(named("a"));
    void one.do(named("b"));
    await held.settle();
    expect(one.known.getState().notice).toBe("this line is not there any more");
    expect(held.stored[1]).toEqual(["b"]);
  });

  it("shows what an action looks like at once, and asks of what the server knows", async () => {
    const one = go(1);
    await held.settle();
    const evaluate = vi.spyOn(api, "evaluate").mockClear();
    void one.do({ do: "frame", rect: [1, 2, 30, 20] });
    one.look({ do: "frame", rect: [5, 2, 30, 20] }, true);
    expect(recipeNow(one.known.getState())?.frame.rect).toEqual([5, 2, 30, 20]);
    expect(evaluate).not.toHaveBeenCalled();
    await held.settle();
    const looked = evaluate.mock.calls.find(([, action]) => action !== null);
    expect(looked?.[0]).toMatchObject({ made: "frame" });
  });

  it("ends each action in its photo, exactly once, in whatever order answers come", async () => {
    for (let seed = 1; seed <= 60; seed++) {
      held = new Held();
      let state = seed;
      const random = (below: number) => {
        state = (state * 1103515245 + 12345) % 2147483648;
        return Math.floor((state / 2147483648) * below);
      };
      const wanted: Record<number, string[]> = { 1: [], 2: [] };
      let now = go(1);
      await held.settle(random);
      for (let n = 0; n < 12; n++) {
        if (random(3) === 0) now = go(now.photo === 1 ? 2 : 1);
        else if (now.known.getState().bench) {
          wanted[now.photo]!.push(`${n}`);
          void now.do(named(`${n}`));
        }
        if (random(2)) await held.settle(random);
      }
      now = go(2);
      await held.settle(random);
      expect(held.stored, `seed ${seed}`).toEqual(wanted);
      expect(now.known.getState().bench?.photo.version, `seed ${seed}`).toBe(wanted[2]!.length);
    }
  });
});
