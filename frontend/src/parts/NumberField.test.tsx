import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import { NumberField, numberIn } from "./NumberField";

afterEach(cleanup);

function show(more: Partial<Parameters<typeof NumberField>[0]> = {}) {
  const onAccept = vi.fn();
  render(<NumberField label="Width" unit="px" least={10} most={99} value={40} onAccept={onAccept} {...more} />);
  return { onAccept, field: screen.getByLabelText<HTMLInputElement>("Width") };
}

describe("a number that is typed", () => {
  it("is taken on Enter or on leaving, with a comma or a point", () => {
    const { onAccept, field } = show({ digits: 1 });
    fireEvent.change(field, { target: { value: "41,5" } });
    fireEvent.keyDown(field, { key: "Enter" });
    expect(onAccept).toHaveBeenLastCalledWith(41.5);
    fireEvent.change(field, { target: { value: "42" } });
    fireEvent.blur(field);
    expect(onAccept).toHaveBeenLastCalledWith(42);
  });

  it("stays with the reason under it when it cannot be taken; Escape puts the old one back", () => {
    const { onAccept, field } = show();
    for (const wrong of ["100", "9", "a lot"]) {
      fireEvent.change(field, { target: { value: wrong } });
      fireEvent.blur(field);
      expect(screen.getByRole("alert").textContent).toBe("Width: enter a number from 10 to 99 px");
      expect(field.value).toBe(wrong);
      expect(field.getAttribute("aria-invalid")).toBe("true");
      expect(document.getElementById(field.getAttribute("aria-describedby") ?? "")?.textContent).toContain("from 10 to 99");
    }
    fireEvent.keyDown(field, { key: "Escape" });
    expect(screen.queryByRole("alert")).toBeNull();
    expect(field.value).toBe("40");
    expect(onAccept).not.toHaveBeenCalled();
  });

  it("goes by a step with the arrow keys, by ten with Shift, and no farther than its limits", () => {
    const { onAccept, field } = show({ step: 5 });
    fireEvent.keyDown(field, { key: "ArrowUp" });
    expect(onAccept).toHaveBeenLastCalledWith(45);
    fireEvent.keyDown(field, { key: "ArrowDown", shiftKey: true });
    expect(onAccept).toHaveBeenLastCalledWith(10);
  });

  it("is not taken when it is the same", () => {
    const { onAccept, field } = show();
    fireEvent.change(field, { target: { value: "40 px" } });
    fireEvent.blur(field);
    expect(onAccept).not.toHaveBeenCalled();
  });

  it("is read with its unit and with a true minus", () => {
    expect(numberIn("−2,5 %", "%")).toBe(-2.5);
    expect(numberIn("3°", "°")).toBe(3);
    expect(numberIn("", "°")).toBeNaN();
    expect(numberIn("2 or 3", "°")).toBeNaN();
  });
});
