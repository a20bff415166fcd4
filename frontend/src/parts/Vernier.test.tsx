import { ChakraProvider } from "@chakra-ui/react";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import { system } from "./theme";
import { Vernier } from "./Vernier";

function show(value: number) {
  const calls = { onLead: vi.fn(), onLetGo: vi.fn(), onNudge: vi.fn() };
  render(
    <ChakraProvider value={system}>
      <Vernier name="Tilt" words="to the right" value={value} range={45} {...calls} />
    </ChakraProvider>,
  );
  return calls;
}

function type(text: string) {
  const field = screen.getByLabelText("Tilt in degrees");
  fireEvent.change(field, { target: { value: text } });
  fireEvent.blur(field);
}

afterEach(cleanup);

describe("the vernier", () => {
  it("says the angle in words, without a sign", () => {
    show(-1.204);
    const slider = screen.getByRole("slider", { name: "Tilt corrected" });
    expect(slider.getAttribute("aria-valuetext")).toBe("1.20 degrees, to the right");
    expect(screen.getByLabelText<HTMLInputElement>("Tilt in degrees").value).toBe("1.20°");
  });

  it("keeps the side when a number is typed without a sign", () => {
    const { onLetGo } = show(-1.2);
    type("1.7");
    expect(onLetGo).toHaveBeenLastCalledWith(-1.7);
    type("−2");
    expect(onLetGo).toHaveBeenLastCalledWith(2);
    type("0,5°");
    expect(onLetGo).toHaveBeenLastCalledWith(-0.5);
  });

  it("says what is wrong with a number beyond its range, and keeps what was typed", () => {
    const { onLetGo } = show(1);
    type("80");
    expect(onLetGo).not.toHaveBeenCalled();
    expect(screen.getByRole("alert").textContent).toBe("Tilt: enter a number up to 45°");
    expect(screen.getByLabelText<HTMLInputElement>("Tilt in degrees").value).toBe("80");
  });

  it("does nothing with what is no number", () => {
    const { onLetGo } = show(1);
    type("a little");
    expect(screen.getByRole("alert")).toBeDefined();
    type("");
    expect(screen.queryByRole("alert")).toBeNull();
    expect(onLetGo).not.toHaveBeenCalled();
  });

  it("goes by 0.01 with an arrow key, by 0.1 with Shift, and no farther than its range", () => {
    const { onNudge } = show(44.95);
    const slider = screen.getByRole("slider");
    fireEvent.keyDown(slider, { key: "ArrowLeft" });
    expect(onNudge.mock.lastCall?.[0]).toBeCloseTo(-0.01);
    fireEvent.keyDown(slider, { key: "ArrowUp", shiftKey: true });
    expect(onNudge.mock.lastCall?.[0]).toBeCloseTo(0.05);
  });
});
