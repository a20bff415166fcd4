import type { Action, Edges, Evaluation, Found, Kind, Recipe, Reference, Take } from "../api/client";
import { type Mesh, meshFrom } from "./mesh";

/** The steps in their order, as people call them. */
export const STEP_NAMES = { lens: "Lens", lines: "Lines", frame: "Crop", edges: "Edges", export: "Export" } as const;

export type StepName = keyof typeof STEP_NAMES;
export type LayKind = "slope" | Kind;
export type Shown = "corrected" | "taken" | "before";
export type Grid = "none" | "coarse" | "fine" | "square";
export type FramePage = "shape" | "compose" | "print";
export type LensPage = "distortion" | "wide";
export type EdgesPage = "corners" | "widen" | "touch up" | "donors";
export type Surround = "lighter" | "neutral" | "darker";

/** Lines in the frame to compose by: those at fixed shares of it, and others. */
export const FAMILIES = ["thirds", "fifths", "golden", "centre", "diagonals", "spiral", "between walls", "margins"] as const;
export type Family = (typeof FAMILIES)[number];

/** A line that stands still on the screen; `at` is its place as a share of the stage, from its top or its left. */
export interface Still {
  id: number;
  way: "level" | "upright";
  at: number;
}

/** What stands on one side of a comparison: the photo as taken, what is true now, or a revision. */
export type Side = "before" | "now" | number;

export interface Comparison {
  way: "flick" | "wipe" | "side by side";
  left: Side;
  right: Side;
  /** Whether the flick shows the left one. */
  flipped: boolean;
}

/** An evaluation with its mesh unpacked. */
export interface Seen extends Omit<Evaluation, "mesh"> {
  mesh: Mesh;
}

/** What is drawn on the picture: something to touch up, or where new pixels may or must not come from. */
export type Drawing = Extract<Action, { do: "draw" }>["what"];

/** What is to be told of an action; `done` false: it cannot be done as asked, and nothing was changed. */
export interface Told {
  words: string;
  done: boolean;
}

/** What came of an action, where that has to be told; `refused`: it was not accepted at all. */
export interface Came extends Told {
  action: Action;
  refused: boolean;
}

/** A number that the hand leads, and where it stands: the picture is carried on along it. */
export interface Led {
  name: string;
  value: number;
}

export const unpacked = (evaluation: Evaluation, { photo }: Recipe): Seen => ({
  ...evaluation,
  mesh: meshFrom(evaluation.mesh, photo.width, photo.height),
});

/** Lines that Sequor has found, those that were left out not among them: how far they may be taken, and how far they should. */
export interface Proposal {
  lines: Reference[];
  /** How much each line says, by its id. */
  shares: Found["shares"];
  extents: Found["extents"];
  suggested: Found["suggested"];
}

/** What is open, chosen and in hand on the page while one photo is worked on; none of it is kept. */
export interface Desk {
  step: StepName;
  kind: LayKind;
  selected: string | null;
  /** The line that the pointer is at, on the picture or in the field book. */
  pointed: string | null;
  /** Lines that Sequor has found and nobody has taken, while they are shown. */
  found: Proposal | null;
  /** Whether what was found was put aside. */
  aside: boolean;
  /** Whether the step Lines is worked by verniers instead of lines. */
  byHand: boolean;
  still: Still[];
  /** What the picture does under each still line, in words. */
  under: Record<number, string>;
  comparison: Comparison | null;
  framePage: FramePage;
  /** The two plumb lines whose middle is meant; null: the first two. */
  walls: readonly [string, string] | null;
  /** Whether the next click or drag on the picture marks the subject. */
  marking: boolean;
  /** The take that the pointer is at, for one part of the empty area or for all of it. */
  pointedTake: { seed: number; part: string | null } | null;
  lensPage: LensPage;
  edgesPage: EdgesPage;
  /** What the next stroke on the picture draws; null: nothing, it moves the picture. */
  drawing: Drawing | null;
  /** The brush's radius in corrected pixels; null: as fits the photo. */
  brush: number | null;
  /** By how many pixels a touch-up runs out; null: as fits the photo. */
  feather: number | null;
  /** The touch-up or donor that is chosen. */
  area: string | null;
  /** The take of a touch-up that the pointer is at. */
  pointedTouch: { id: string; take: Take } | null;
  /** How much a reshaped picture is stretched where, while that is shown. */
  heat: Edges["heat"];
  /** The export that was begun last, by its job. */
  job: string | null;
  /** Why the last export did not begin. */
  exportError: string | null;
  /** Which states are written: versions by their ids, and the current one. */
  picked: { versions: number[]; now: boolean };
  /** Whether the log stands in place of the field book. */
  log: boolean;
  shown: Shown;
}

export const TIDY_DESK: Desk = {
  step: "lines",
  kind: "slope",
  selected: null,
  pointed: null,
  found: null,
  aside: false,
  byHand: false,
  still: [],
  under: {},
  comparison: null,
  framePage: "shape",
  walls: null,
  marking: false,
  pointedTake: null,
  lensPage: "distortion",
  edgesPage: "corners",
  drawing: null,
  brush: null,
  feather: null,
  area: null,
  pointedTouch: null,
  heat: null,
  job: null,
  exportError: null,
  picked: { versions: [], now: true },
  log: false,
  shown: "corrected",
};
