import { beforeEach, describe, expect, it } from "vitest";

import type { Photo } from "../api/client";
import { chooseNone, chooseOne, useChosen } from "./chosen";

const photos = [1, 2, 3, 4, 5].map((id) => ({ id }) as Photo);
const press = (id: number, how: { more?: boolean; range?: boolean } = {}) => chooseOne(photos, id, { more: false, range: false, ...how });
const chosen = () => [...useChosen.getState().numbers].sort();

beforeEach(chooseNone);

describe("choosing photos", () => {
  it("is of one, then of another", () => {
    press(2);
    press(4);
    expect(chosen()).toEqual([4]);
  });

  it("with Ctrl is of one more, or of one less", () => {
    press(2);
    press(4, { more: true });
    press(2, { more: true });
    expect(chosen()).toEqual([4]);
  });

  it("with Shift is of all between, whichever comes first, and begins where it began", () => {
    press(4);
    press(2, { range: true });
    expect(chosen()).toEqual([2, 3, 4]);
    press(5, { range: true });
    expect(chosen()).toEqual([4, 5]);
  });

  it("with both adds a range to what is chosen", () => {
    press(1);
    press(4, { more: true });
    press(5, { more: true, range: true });
    expect(chosen()).toEqual([1, 4, 5]);
  });
});
