import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { api, type Bench, type Takes } from "../../api/client";
import type { Seen } from "../../session/model";
import { Session } from "../../session/session";
import { SessionContext } from "../../session/useSession";
import { useTakes } from "./useTakes";

afterEach(() => {
  cleanup();
  vi.useRealTimers();
  vi.restoreAllMocks();
});

function Looker() {
  useTakes();
  return null;
}

it("asks how far takes are once at a time, however many look at them", async () => {
  vi.useFakeTimers();
  const running = { made_for: "here", takes: [{ id: 1, seed: 1, state: "running", parts: [] }], notice: null } as unknown as Takes;
  const asked = vi.spyOn(api, "takes").mockResolvedValue(running);
  const session = new Session(7);
  session.openWith(
    { photo: { id: 7 }, recipe: { edges: { mode: "fill", seed: 1, patches: [] } } } as unknown as Bench,
    { made_for: "here", frame: { empty: 0.1 } } as unknown as Seen,
  );
  const queries = new QueryClient();
  const page = (lookers: number) => (
    <QueryClientProvider client={queries}>
      <SessionContext value={session}>
        <Looker />
        {Array.from({ length: lookers }, (_, at) => (
          <Looker key={at} />
        ))}
      </SessionContext>
    </QueryClientProvider>
  );
  const { rerender } = render(page(0));
  // They come one after the other, so that their times would not fall together.
  for (const lookers of [1, 2, 3]) {
    await vi.advanceTimersByTimeAsync(70);
    rerender(page(lookers));
  }
  await vi.advanceTimersByTimeAsync(70);
  asked.mockClear();
  await vi.advanceTimersByTimeAsync(2000);
  expect(asked).toHaveBeenCalledTimes(8);
});
