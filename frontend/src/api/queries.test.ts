import { QueryClient } from "@tanstack/react-query";
import { describe, expect, it } from "vitest";

import type { Revision, Revisions, Takes } from "./client";
import { changeTakes, withNewest } from "./queries";

const entry = (id: number): Revision => ({ id, number: id, action: `${id}`, at: "", current: false });
const page = (from: number, to: number, next: number | null): Revisions => ({
  revisions: Array.from({ length: from - to + 1 }, (_, at) => entry(from - at)),
  next,
});
const ids = (pages: { pages: Revisions[] }) => pages.pages.flatMap(({ revisions }) => revisions.map(({ id }) => id));

describe("the log", () => {
  const before = { pages: [page(8, 6, 6), page(5, 3, 3)], pageParams: [0, 6] };

  it("puts what is new before what is known", () => {
    const after = withNewest(before, page(9, 7, 7));
    expect(ids(after)).toEqual([9, 8, 7, 6, 5, 4, 3]);
    expect(after.pages.map(({ next }) => next)).toEqual([6, 3]);
  });

  it("stays as it is when nothing is new", () => {
    expect(withNewest(before, page(8, 6, 6))).toBe(before);
  });

  it("begins anew where something lies between that is not known", () => {
    expect(ids(withNewest(before, page(20, 18, 18)))).toEqual([20, 19, 18]);
  });

  it("takes all of a short one", () => {
    const short = { pages: [page(2, 1, null)], pageParams: [0] };
    expect(ids(withNewest(short, page(4, 1, null)))).toEqual([4, 3, 2, 1]);
  });
});

describe("takes", () => {
  const takes = (state: "waiting" | "done", notice: string | null = null): Takes =>
    ({ made_for: "here", takes: [{ id: 1, seed: 1, state }], notice }) as unknown as Takes;

  it("keep a notice until what it speaks of has been done", async () => {
    const queries = new QueryClient();
    const ask = (answer: Takes) => changeTakes(queries, 7, "", () => Promise.resolve(answer));
    expect((await ask(takes("waiting", "the queue is away"))).notice).toBe("the queue is away");
    expect((await ask(takes("waiting"))).notice).toBe("the queue is away");
    expect((await ask(takes("done"))).notice).toBeNull();
    expect(queries.getQueryData(["takes", 7, "", "here"])).toMatchObject({ takes: [{ state: "done" }] });
  });
});
