import type { Action, Kind, Recipe, Reference } from "../api/client";
import { LIMITS } from "../api/limits";
import type { Point } from "./mesh";
import type { LayKind, Seen } from "./model";

/** What of a recipe an action shows before the server has answered: where things lie and how they are turned, no more. */
type Ahead<Of extends Action> = (recipe: Recipe, action: Of, seen: Seen | null) => Recipe;

type Pair = [number, number];

type Doing<Name> = Extract<Action, { do: Name }>;

const AHEAD: { [Name in Action["do"]]?: Ahead<Doing<Name>> } = {
  lay: (recipe, { line, kind, points, group }) => ({
    ...recipe,
    references: [...recipe.references, { ...PLAIN, id: line, kind: kindFor(kind, points), points, group: group ?? null }],
  }),
  move: (recipe, { line, points }) => withLine(recipe, line, { points }),
  "take out": (recipe, { angle, degrees }, seen) => {
    const row = seen?.angles.find(({ name }) => name === angle);
    const hand = within(`by hand.${angle}`, degrees - (row ? row.taken_out - row.by_hand : 0));
    return withCorrection(recipe, { by_hand: { ...recipe.correction.by_hand, [angle]: hand } });
  },
  proportion: (recipe, { percent }) => withCorrection(recipe, { proportion: 1 + percent / 100 }),
  "looks like": (recipe, { mm }) => ({ ...recipe, view: { ...recipe.view, looks_like_35mm: mm, kind: recipe.view.kind === "flat" ? "round" : recipe.view.kind } }),
  uprights: (recipe, { value }) => ({ ...recipe, view: { ...recipe.view, uprights: value } }),
  "carry out": (recipe, { amount }) => ({ ...recipe, bend: { ...recipe.bend, on: true, amount } }),
  wish: (recipe, { line, way, off_deg = 0, amount = 1 }) => withLine(recipe, line, { become: way && { way, off_deg, amount } }),
  bend: (recipe, { percent }) => ({ ...recipe, lens: { ...recipe.lens, source: "manual", k1: -percent / 100 } }),
  frame: (recipe, { rect }) => ({ ...recipe, frame: { ...recipe.frame, rect } }),
  "draw out": (recipe, { rect }) => ({ ...recipe, frame: { ...recipe.frame, rect, allow_empty: true } }),
  subject: (recipe, { mark }) => ({ ...recipe, frame: { ...recipe.frame, subject: mark && markOf(recipe, mark[0], mark[1]) } }),
  draw: (recipe, { what, area, points, radius = null, feather }) =>
    what === "touch-up"
      ? withEdges(recipe, { touch_ups: [...recipe.edges.touch_ups, { ...UNTOUCHED, id: area, points, radius, feather: feather ?? 0 }] })
      : withEdges(recipe, { donors: [...recipe.edges.donors, { id: area, kind: what, points, radius }] }),
  "move area": (recipe, { area, to }) => {
    const move = <Area extends { id: string; points: Pair[] }>(one: Area): Area => (one.id === area ? { ...one, points: movedTo(one.points, to) } : one);
    return withEdges(recipe, { touch_ups: recipe.edges.touch_ups.map(move), donors: recipe.edges.donors.map(move) });
  },
};

/** The recipe as it looks with an action until the server says what it is. */
export function ahead(recipe: Recipe, action: Action, seen: Seen | null): Recipe {
  const look = AHEAD[action.do] as Ahead<Action> | undefined;
  return look ? look(recipe, action, seen) : recipe;
}

const PLAIN = { sigma_px: null, shape: null, weight: 1, active: true, become: null } as const;
const UNTOUCHED = { amount: 1, active: true, seed: 1, hint: null } as const;

const withEdges = (recipe: Recipe, changes: Partial<Recipe["edges"]>): Recipe => ({ ...recipe, edges: { ...recipe.edges, ...changes } });

const withCorrection = (recipe: Recipe, changes: Partial<Recipe["correction"]>): Recipe => ({ ...recipe, correction: { ...recipe.correction, ...changes } });

const withLine = (recipe: Recipe, id: string, changes: Partial<Reference>): Recipe => ({
  ...recipe,
  references: recipe.references.map((one) => (one.id === id ? { ...one, ...changes } : one)),
});

/** Colour and sign of a line that is laid by its slope, while it is drawn. */
function kindFor(kind: LayKind, points: readonly Point[]): Kind {
  const [a, b] = [points[0], points[points.length - 1]];
  if (kind !== "slope" || !a || !b) return kind === "slope" ? "level" : kind;
  return Math.abs(b[1] - a[1]) > Math.abs(b[0] - a[0]) ? "plumb" : "level";
}

/** A mark from one point to another, as it is drawn. */
export function markOf({ photo }: Recipe, from: Point, to: Point = from): NonNullable<Recipe["frame"]["subject"]> {
  const on = ([x, y]: Point): Pair => [Math.min(Math.max(x, 0), photo.width), Math.min(Math.max(y, 0), photo.height)];
  const [a, b] = [on(from), on(to)];
  const [width, height] = [Math.abs(b[0] - a[0]), Math.abs(b[1] - a[1])];
  return width && height ? [Math.min(a[0], b[0]), Math.min(a[1], b[1]), width, height] : a;
}

function movedTo(points: readonly Pair[], to: Pair): Pair[] {
  const [x, y] = points[0] ?? to;
  return points.map((point): Pair => [point[0] + to[0] - x, point[1] + to[1] - y]);
}

/** A value within what an action takes. */
export function within(name: keyof typeof LIMITS, value: number): number {
  const [least, most] = LIMITS[name];
  return Math.min(most, Math.max(least, value));
}

/** The first name of a letter and a number that nothing in a list has. */
export function freeId(list: readonly { id: string }[], letter: string): string {
  let number = list.length + 1;
  while (list.some(({ id }) => id === letter + number)) number++;
  return letter + number;
}
