import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { api, type Bench, type Recipe } from "../../api/client";
import type { Seen } from "../../session/model";
import { Session } from "../../session/session";
import { SessionContext } from "../../session/useSession";
import { system } from "../../parts/theme";
import { CornersPage } from "./CornersPage";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const recipe = { edges: { mode: "leave", colour: null, hint: null, patches: [] } } as unknown as Recipe;
const seen = (empty: number) => ({ frame: { empty, kept: 1 } }) as unknown as Seen;

it("keeps what is being typed while an answer comes in", async () => {
  vi.spyOn(api, "edges").mockResolvedValue({ choices: [], suits: null, words: null, hurts_from: null, heat: null } as never);
  const frame = vi.spyOn(api, "revise").mockReturnValue(new Promise(() => undefined));
  const session = new Session(7);
  session.openWith({ photo: { id: 7, revision: 1 }, recipe } as unknown as Bench, seen(0.176));
  const page = (empty: number) => (
    <ChakraProvider value={system}>
      <QueryClientProvider client={new QueryClient()}>
        <SessionContext value={session}>
          <CornersPage recipe={recipe} read={seen(empty)} />
        </SessionContext>
      </QueryClientProvider>
    </ChakraProvider>
  );
  const { rerender } = render(page(0.176));
  fireEvent.change(screen.getByLabelText("Empty area, at most"), { target: { value: "2" } });
  rerender(page(0.1761));
  const field = screen.getByLabelText<HTMLInputElement>("Empty area, at most");
  expect(field.value).toBe("2");
  fireEvent.keyDown(field, { key: "Enter" });
  await waitFor(() => expect(frame).toHaveBeenCalledWith(expect.anything(), expect.objectContaining({ do: "edges", extent: "at most", share: 0.02 })));
  expect(field.value).toBe("17.6");
});
