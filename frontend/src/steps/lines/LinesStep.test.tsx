import { ChakraProvider } from "@chakra-ui/react";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, type MockInstance, vi } from "vitest";

import { api, type Bench, type Evaluation, type Recipe, type Reference } from "../../api/client";
import { plainMesh } from "../../session/mesh";
import { Offers } from "./Offers";
import type { Seen } from "../../session/model";
import { Session } from "../../session/session";
import { SessionContext } from "../../session/useSession";
import { system } from "../../parts/theme";
import { LinesStep } from "./LinesStep";

const angle = (name: string, sd: number | null) => ({ name, solved: 1, sd, plus_minus: null, taken_out: 1, by_hand: 0, words: `${name} words` });

function line(id: string, kind: Reference["kind"], more: Partial<Reference> = {}): Reference {
  return { id, kind, points: [[10, 10], [90, 20]], sigma_px: 1, group: null, shape: null, weight: 1, active: true, become: null, ...more };
}

function recipeWith(...references: Reference[]): Recipe {
  const each = <T,>(value: T) => ({ roll: value, pitch: value, yaw: value });
  const correction = { free: ["roll", "pitch"], ...each(1), focal_px: null, amount: each(1), on: each(true), by_hand: each(0), proportion: 1 };
  return { photo: { width: 300, height: 200, quarter_turns: 0 }, lens: { source: "none", k1: 0 }, references, correction, frame: { rect: null } } as unknown as Recipe;
}

function seenWith(references: Reference[], more: Partial<Seen> = {}): Seen {
  const lines = references.map(({ id, kind }, at) => ({
    id, kind, number: at + 1, as_taken: `${id} as taken`, brief: `${id} now`, after: "0.00°", plus_minus: "± 0.1°", verdict: "agrees", verdict_words: `${id} agrees`,
  }));
  const angles = [angle("roll", 0.1), angle("pitch", null), angle("yaw", null)];
  return { lines, angles, mesh: plainMesh(300, 200), focal: { words: "28 mm at 35 mm, assumed" }, lens: { source: "none", open: false }, offers: [], presets: [], ...more } as unknown as Seen;
}

let session = new Session(7);

function show(references: Reference[], more: Partial<Seen> = {}) {
  const recipe = recipeWith(...references);
  const bench = { photo: { id: 7 }, recipe, can_undo: true, can_redo: false } as unknown as Bench;
  session = new Session(7);
  session.openWith(bench, seenWith(references, more));
  render(
    <ChakraProvider value={system}>
      <SessionContext value={session}>
        <LinesStep />
        <Offers />
      </SessionContext>
    </ChakraProvider>,
  );
  return recipe;
}

let revise: MockInstance<typeof api.revise>;

beforeEach(() => {
  const evaluated = (recipe: Recipe) => ({ ...seenWith(recipe.references), mesh: { columns: 1, rows: 1, vertices: "" } }) as unknown as Evaluation;
  revise = vi.spyOn(api, "revise").mockImplementation(() => {
    const bench = session.known.getState().bench!;
    return Promise.resolve({ ...bench, evaluation: evaluated(bench.recipe), words: "", done: true });
  });
  vi.spyOn(api, "evaluate").mockImplementation((recipe) => Promise.resolve({ ...evaluated(recipe), after: null }));
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const PATIENT = { timeout: 20_000 };

const kept = () => revise.mock.lastCall?.[1];

describe("the field book", () => {
  it("shows the tilt alone at first, and the rarer kinds only when asked", () => {
    show([line("r1", "level")]);
    expect(screen.getAllByRole("slider")).toHaveLength(1);
    expect(screen.queryByRole("button", { name: "Rectangle" })).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "More kinds of line" }));
    fireEvent.click(screen.getByRole("button", { name: "Rectangle" }));
    expect(session.desk.getState().kind).toBe("rectangle");
  });

  it("has a row of readings for every line, and lights up the line that is pointed at", () => {
    show([line("r1", "level"), line("r2", "receding", { group: "1" })]);
    const row = screen.getByRole("button", { name: /2.*1.*r2 now.*r2 agrees/ });
    fireEvent.pointerEnter(row.closest("li")!);
    expect(session.desk.getState().pointed).toBe("r2");
  });

  it("takes an amount that is typed, within 0 to 100 %", async () => {
    show([line("r1", "level")]);
    const field = screen.getByLabelText("How much of the tilt is corrected, in per cent");
    fireEvent.change(field, { target: { value: "130 %" } });
    fireEvent.blur(field);
    fireEvent.change(field, { target: { value: "85" } });
    fireEvent.blur(field);
    await vi.waitFor(() => expect(kept()).toEqual({ do: "amount", angle: "roll", share: 0.85 }), PATIENT);
    expect(revise).toHaveBeenCalledTimes(1);
  });
});

describe("offers", () => {
  it("take a choice by its question and its label", async () => {
    show([line("r1", "level")], { offers: [{ name: "ease", words: "Top-heavy?", lines: [], choices: [{ label: "Correct only 85%" }] }] });
    fireEvent.click(screen.getByRole("button", { name: "Correct only 85%" }));
    await vi.waitFor(() => expect(kept()).toEqual({ do: "offer", name: "ease", label: "Correct only 85%" }), PATIENT);
  });
});
