import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { api, type Bench, type Photo, Problem, type Recipe } from "../api/client";
import { closeSession, newSession, openSession, useUnkept } from "./open";
import type { Session } from "./session";

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

  store(photo: Photo, action: string): Bench {
    if (photo.version !== this.stored[photo.id]!.length) throw new Problem(412, "Changed", "changed");
    this.stored[photo.id]!.push(action);
    return this.bench(photo.id);
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
  vi.spyOn(api, "revise").mockImplementation((photo, _recipe, action) => held.answer(() => held.store(photo, action)));
  vi.spyOn(api, "step").mockImplementation((photo, way) => held.answer(() => held.store(photo, way)));
  vi.spyOn(api, "returnTo").mockImplementation((photo, to) => held.answer(() => held.store(photo, `to ${to}`)));
  vi.spyOn(api, "evaluate").mockImplementation((recipe) =>
    held.answer(() => ({ map: (recipe as unknown as { made: string }).made, mesh: { columns: 1, rows: 1, vertices: "" }, offers: [], presets: [] }) as never),
  );
});

afterEach(async () => {
  await held.settle();
  if (open) void closeSession(open);
  open = null;
  useUnkept.setState({ words: null });
  vi.restoreAllMocks();
});

const mark = (recipe: Recipe): Recipe => ({ ...recipe });

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
    void one.keep(mark, "a");
    void one.keep(mark, "b");
    void one.step("undo");
    void one.returnTo(0);
    const two = go(2);
    void two.keep(mark, "too early for 2");
    await held.settle((waiting) => waiting - 1);
    expect(held.stored).toEqual({ 1: ["a", "b", "undo", "to 0"], 2: [] });
    expect(two.known.getState()).toMatchObject({ kept: null, draft: null });
    expect(useUnkept.getState().words).toBeNull();
    void two.keep(mark, "c");
    await held.settle();
    expect(held.stored[2]).toEqual(["c"]);
  });

  it("keeps what the keys did a moment before the photo was left", async () => {
    const one = go(1);
    await held.settle();
    one.keepSoon(mark, "nudged", true);
    go(2);
    await held.settle();
    expect(held.stored).toEqual({ 1: ["nudged"], 2: [] });
  });

  it("says what was not kept of a photo that was left", async () => {
    const one = go(1);
    await held.settle();
    void one.keep(mark, "a");
    held.stored[1]!.push("from another window");
    const two = go(2);
    await held.settle();
    expect(useUnkept.getState().words).toMatch(/The last action on “Photo 1” was not kept.*another window/);
    expect(two.known.getState()).toMatchObject({ notice: null, stale: false });
    expect(two.known.getState().bench?.photo.id).toBe(2);
  });

  it("shows the newest, and says so, when the photo was changed elsewhere", async () => {
    const one = go(1);
    await held.settle();
    held.stored[1]!.push("from another window");
    void one.catchUp();
    await held.settle();
    expect(one.known.getState().notice).toMatch(/changed in another window.*newest/);
    void one.keep(mark, "on top of it");
    await held.settle();
    expect(held.stored[1]).toEqual(["from another window", "on top of it"]);
  });

  it("does not make an action wait for the offers", async () => {
    const one = go(1);
    // The bench is answered; the offers of it are held back from then on.
    await held.settle((waiting) => waiting - 1);
    const offers = vi.spyOn(api, "evaluate").mockImplementation(() => new Promise(() => undefined));
    void one.keep(mark, "a");
    void one.keep(mark, "b");
    await held.settle();
    expect(held.stored[1]).toEqual(["a", "b"]);
    expect(offers).toHaveBeenCalled();
  });

  it("takes an offer in the photo it was made for", async () => {
    const one = go(1);
    await held.settle();
    void one.keepChoice((seen) => (seen.map.startsWith("1 ") || seen.map === "" ? ({} as Recipe) : undefined), "offer of 1");
    go(2);
    await held.settle();
    expect(held.stored).toEqual({ 1: ["offer of 1"], 2: [] });
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
          void now.keep(mark, `${n}`);
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
