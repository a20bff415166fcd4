import { cleanup, render, screen } from "@testing-library/react";
import { ChakraProvider } from "@chakra-ui/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import { later } from "./later";
import { system } from "./theme";
import { Trouble } from "./Trouble";

afterEach(cleanup);

const Words = ({ words }: { words: string }) => <p>{words}</p>;

describe("a part that is loaded later", () => {
  it("is loaded once, when it is first shown", async () => {
    const load = vi.fn(() => Promise.resolve(Words));
    const Later = later(load);
    expect(load).not.toHaveBeenCalled();
    const { unmount } = render(<Later words="here" />);
    expect(screen.queryByText("here")).toBeNull();
    await screen.findByText("here");
    unmount();
    render(<Later words="again" />);
    expect(screen.getByText("again")).toBeDefined();
    expect(load).toHaveBeenCalledTimes(1);
  });

  it("fails where it would be shown", async () => {
    vi.spyOn(console, "error").mockImplementation(() => undefined);
    const Later = later<{ words: string }>(() => Promise.reject(new Error("no answer")));
    render(
      <ChakraProvider value={system}>
        <p>the rest</p>
        <Trouble what="log">
          <Later words="here" />
        </Trouble>
      </ChakraProvider>,
    );
    expect((await screen.findByRole("alert")).textContent).toContain("The log failed");
    expect(screen.getByText("the rest")).toBeDefined();
    vi.restoreAllMocks();
  });
});
