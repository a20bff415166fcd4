import { create } from "zustand";

import type { Family, Grid, StepName, Surround } from "./model";

/** How somebody likes to work, whatever photo is open. */
interface Preferences {
  /** Whether a line that was laid is to become the real edge under it. */
  snap: boolean;
  /** The group that new receding lines belong to. */
  group: string;
  /** The lines to compose by that are shown in the frame. */
  families: Family[];
  /** In which corner of the frame the golden spiral ends, of four. */
  spiral: number;
  /** How dark what lies outside the frame is veiled, 0 to 1. */
  veil: number;
  /** Whether an area is drawn around, not brushed over. */
  around: boolean;
  /** Whether what is new is marked on the picture. */
  showNew: boolean;
  grids: Record<StepName, Grid>;
  surround: Surround;
  magnifier: boolean;
  /** Whether single keys do anything. */
  shortcuts: boolean;
}

export const usePreferences = create<Preferences>(() => ({
  snap: true,
  group: "1",
  families: ["thirds"],
  spiral: 0,
  veil: 0.62,
  around: false,
  showNew: true,
  grids: { lens: "none", lines: "none", frame: "none", edges: "none", export: "none" },
  surround: "neutral",
  magnifier: true,
  shortcuts: true,
}));

const GRIDS: Grid[] = ["none", "coarse", "fine", "square"];

/** The next grid at a step. */
export const turnGrid = (step: StepName) =>
  usePreferences.setState(({ grids }) => ({ grids: { ...grids, [step]: GRIDS[(GRIDS.indexOf(grids[step]) + 1) % GRIDS.length] } }));
