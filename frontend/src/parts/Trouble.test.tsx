import { ChakraProvider } from "@chakra-ui/react";
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import { system } from "./theme";
import { Trouble } from "./Trouble";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

function Broken(): never {
  throw new Error("broken");
}

describe("a page that fails", () => {
  it("says so, what is safe, and what can be done", () => {
    vi.spyOn(console, "error").mockImplementation(() => undefined);
    render(
      <ChakraProvider value={system}>
        <Trouble>
          <Broken />
        </Trouble>
      </ChakraProvider>,
    );
    expect(screen.getByRole("alert").textContent).toContain("All that was stored is safe");
    expect(screen.getByRole("button", { name: "Reload" })).toBeTruthy();
  });

  it("is out of the way while nothing fails", () => {
    render(<Trouble>all well</Trouble>);
    expect(screen.queryByRole("alert")).toBeNull();
    expect(screen.getByText("all well")).toBeTruthy();
  });
});
