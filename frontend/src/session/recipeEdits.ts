import { around } from "./around";
import type { AngleName, Kind, Lens, Patch, Print, Recipe, Reference, Take } from "../api/client";
import { cornerPatches } from "./areas";
import type { LayKind } from "./model";
import type { Point } from "./mesh";

/** How far each angle goes, by the hand and on its vernier, in degrees. */
export const RANGES: Record<AngleName, number> = { roll: 45, pitch: 60, yaw: 60 };

/** What the server noted when it looked for the real edge under a reference. */
export interface SnapNote {
  laid?: Reference["points"];
  laid_sigma_px?: number | null;
  clarity?: number;
  moved_px?: number;
  refused?: string;
}

const SNAP_NOTE = "x-snap";

export function snapNote(line: Reference): SnapNote | null {
  return (line[SNAP_NOTE] as SnapNote | undefined) ?? null;
}

function withoutNote(line: Reference): Reference {
  const plain = { ...line };
  delete plain[SNAP_NOTE];
  return plain;
}

/** A snapped line as the hand had laid it. */
export function asLaid(line: Reference): Reference {
  const note = snapNote(line);
  return note?.laid ? { ...withoutNote(line), points: note.laid, sigma_px: note.laid_sigma_px ?? line.sigma_px } : line;
}

/** The kind of a line that was laid "by its slope": what it looks nearer to. Only a default; it can be changed. */
export function kindFor(kind: LayKind, a: Point, b: Point): Kind {
  if (kind !== "slope") return kind;
  return Math.abs(b[1] - a[1]) > Math.abs(b[0] - a[0]) ? "plumb" : "level";
}

/** How many points a kind needs at least; a rectangle has just these. */
export const pointsFor = (kind: LayKind): number => (kind === "rectangle" ? 4 : kind === "straight" ? 3 : 2);

/** What a drag from one point to another stands for: a line, a straight thing with a middle to pull, a box. */
export function dragged(kind: LayKind, from: Point, to: Point): Point[] {
  if (kind === "straight") return [from, [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2], to];
  if (kind !== "rectangle") return [from, to];
  return [from, [to[0], from[1]], to, [from[0], to[1]]];
}

/** Four corners clockwise from the top left one, in whatever order they were laid. */
export function clockwise(corners: readonly Point[]): Point[] {
  const mean = (k: 0 | 1) => corners.reduce((sum, corner) => sum + corner[k], 0) / corners.length;
  const [x, y] = [mean(0), mean(1)];
  const sorted = [...corners].sort((a, b) => Math.atan2(a[1] - y, a[0] - x) - Math.atan2(b[1] - y, b[0] - x));
  const least = Math.min(...sorted.map(([a, b]) => a + b));
  const first = sorted.findIndex(([a, b]) => a + b === least);
  return [...sorted.slice(first), ...sorted.slice(0, first)];
}

/** Whether a rectangle's corners turn right at each of them, so that the core can take it. */
export function holdsTogether(line: Reference): boolean {
  const { points } = line;
  if (line.kind !== "rectangle") return points.some(([x, y]) => x !== around(points, 0)[0] || y !== around(points, 0)[1]);
  return points.every(([x, y], at) => {
    const [before, after] = [around(points, at - 1), around(points, at + 1)];
    return (x - before[0]) * (after[1] - y) - (y - before[1]) * (after[0] - x) > 0;
  });
}

/** The recipe with everything that is found from lines to be solved anew: angles, focal length, lens. */
function reopened(recipe: Recipe): Recipe {
  const { free, focal_px } = recipe.correction;
  const kept = free.includes("focal_px") ? null : focal_px;
  const lens = recipe.lens.source === "straight" ? { ...recipe.lens, k1: 0, k2: 0 } : recipe.lens;
  return { ...recipe, lens, correction: { ...recipe.correction, roll: null, pitch: null, yaw: null, focal_px: kept } };
}

/** The recipe with other lines. */
export function withReferences(recipe: Recipe, references: Reference[]): Recipe {
  return reopened({ ...recipe, references });
}

const NO_LENS = { source: "none", model: "brown", unit_px: null, k1: 0, k2: 0, k3: 0, p1: 0, p2: 0, profile: null } as const;

/** Where a recipe remembers the hand's own term while something else takes the bending out. */
const BY_HAND = "x-by-hand";

/** The term that the hand has given, or had given last. */
export const handTerm = ({ lens }: Recipe): number => (lens.source === "manual" ? lens.k1 : ((lens[BY_HAND] as number | undefined) ?? 0));

/** The recipe with another lens; lines stay on the things they were laid on, what they say is solved anew. */
function withLens(recipe: Recipe, lens: Partial<Lens>, terms: ("k1" | "k2")[] = []): Recipe {
  const free = [...recipe.correction.free.filter((name) => name !== "k1" && name !== "k2"), ...terms];
  const kept = handTerm(recipe);
  const whole: Lens = { ...NO_LENS, ...lens, ...(kept !== 0 && lens.source !== "manual" && { [BY_HAND]: kept }) };
  return reopened({ ...recipe, lens: whole, correction: { ...recipe.correction, free } });
}

export const withoutLens = (recipe: Recipe): Recipe => withLens(recipe, {});

export const withProfile = (recipe: Recipe, profile: Lens): Recipe => withLens(recipe, profile);

export const withLensByHand = (recipe: Recipe, k1: number): Recipe => withLens(recipe, { source: "manual", k1 });

/** `second`: the next term too, when the straight things determine it. */
export const withLensFromStraight = (recipe: Recipe, second: boolean): Recipe =>
  withLens(recipe, { source: "straight" }, second ? ["k1", "k2"] : ["k1"]);

export function newReference(recipe: Recipe, kind: Kind, points: readonly Point[], sigma: number, group: string): Reference {
  const taken = new Set(recipe.references.map((one) => one.id));
  let number = recipe.references.length + 1;
  while (taken.has(`r${number}`)) number++;
  const placed = (kind === "rectangle" ? clockwise(points) : points).map(round);
  return {
    id: `r${number}`,
    kind,
    points: placed,
    sigma_px: sigma,
    group: kind === "receding" ? group : null,
    shape: null,
    weight: 1,
    active: true,
  };
}

/** Move one point of a line, or the whole ("all"), by a distance in photo pixels; what was snapped is laid again. */
export function movedLine(line: Reference, part: number | "all", dx: number, dy: number, sigma: number): Reference {
  const points = line.points.map(([x, y], index) =>
    part === "all" || part === index ? round([x + dx, y + dy]) : ([x, y] as [number, number]),
  );
  return { ...withoutNote(line), points, sigma_px: sigma };
}

/** The line as another kind, with as many points as that one needs. */
export function asKind(line: Reference, kind: Kind, group: string): Reference {
  const [first, last] = [around(line.points, 0), around(line.points, -1)];
  const opposite = line.kind === "rectangle" ? around(line.points, 2) : last;
  const across: Point = [opposite[0] === first[0] ? first[0] + 40 : opposite[0], opposite[1] === first[1] ? first[1] + 40 : opposite[1]];
  let points: readonly Point[] = line.points;
  if (kind === "rectangle") points = line.points.length === 4 ? clockwise(line.points) : clockwise(dragged(kind, first, across));
  else if (kind === "straight") points = line.points.length > 2 && line.kind !== "rectangle" ? line.points : dragged(kind, first, opposite);
  else if (line.points.length > 2) points = [first, line.kind === "rectangle" ? around(line.points, 1) : last];
  const plain = points.length === line.points.length ? line : withoutNote(line);
  return { ...plain, kind, points: points.map(round), group: kind === "receding" ? (line.group ?? group) : null, shape: kind === "rectangle" ? line.shape : null };
}

/** A straight thing with one point more, in the middle of its longest part. */
export function withPoint(line: Reference): Reference {
  const ends = (at: number) => [around(line.points, at), around(line.points, at + 1)] as const;
  const gap = (at: number) => {
    const [[ax, ay], [bx, by]] = ends(at);
    return Math.hypot(bx - ax, by - ay);
  };
  let longest = 0;
  for (let at = 1; at < line.points.length - 1; at++) if (gap(at) > gap(longest)) longest = at;
  const [a, b] = ends(longest);
  const points = [...line.points];
  points.splice(longest + 1, 0, round([(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]));
  return { ...line, points };
}

/** A rectangle is laid to be made square-on: all three angles come free. */
export function withRectangleFree(recipe: Recipe, line: Reference): Recipe {
  if (line.kind !== "rectangle") return recipe;
  const others = recipe.correction.free.filter((name) => !["roll", "pitch", "yaw"].includes(name));
  return corrected(recipe, { free: ["roll", "pitch", "yaw", ...others] });
}

/** The recipe with one of its lines changed, as that line stands when the change is made. */
export function withLine(recipe: Recipe, id: string, change: (line: Reference) => Reference): Recipe {
  return withReferences(
    recipe,
    recipe.references.map((one) => (one.id === id ? change(one) : one)),
  );
}

export function replaced(recipe: Recipe, line: Reference): Recipe {
  return withLine(recipe, line.id, () => line);
}

const corrected = (recipe: Recipe, changes: Partial<Recipe["correction"]>): Recipe => ({
  ...recipe,
  correction: { ...recipe.correction, ...changes },
});

/** The hand's part of an angle in degrees when what is taken out changes by a difference. */
export function handFor(recipe: Recipe | null, angle: AngleName, by: number): number {
  const range = RANGES[angle];
  return Math.min(range, Math.max(-range, Math.round(((recipe?.correction.by_hand[angle] ?? 0) + by) * 1e4) / 1e4));
}

export function withHand(recipe: Recipe, angle: AngleName, degrees: number): Recipe {
  return corrected(recipe, { by_hand: { ...recipe.correction.by_hand, [angle]: degrees } });
}

export function withOn(recipe: Recipe, angle: AngleName, on: boolean): Recipe {
  const { by_hand, on: before } = recipe.correction;
  return corrected(recipe, { by_hand: { ...by_hand, [angle]: on ? by_hand[angle] : 0 }, on: { ...before, [angle]: on } });
}

export function withAmount(recipe: Recipe, angle: AngleName, share: number): Recipe {
  return corrected(recipe, { amount: { ...recipe.correction.amount, [angle]: share } });
}

export function withProportion(recipe: Recipe, proportion: number): Recipe {
  return corrected(recipe, { proportion });
}

/** Whether the focal length is found from the lines; a given one gives way. */
export function withFocalFree(recipe: Recipe, free: boolean): Recipe {
  const others = recipe.correction.free.filter((name) => name !== "focal_px");
  return corrected(recipe, { free: free ? [...others, "focal_px"] : others, focal_px: null, roll: null, pitch: null, yaw: null });
}

/** The hand's part of every angle back to nothing, and the proportion. */
export function withoutHand(recipe: Recipe): Recipe {
  return corrected(recipe, { by_hand: { roll: 0, pitch: 0, yaw: 0 }, proportion: 1 });
}

export function withRect(recipe: Recipe, rect: Recipe["frame"]["rect"]): Recipe {
  return { ...recipe, frame: { ...recipe.frame, rect } };
}

/** The subject mark as the recipe writes it: a point, or a box about two of its corners, in photo pixels. */
export function markOf(recipe: Recipe, from: Point, to: Point = from): NonNullable<Recipe["frame"]["subject"]> {
  const { width, height } = recipe.photo;
  const on = ([x, y]: Point) => round([Math.min(Math.max(x, 0), width), Math.min(Math.max(y, 0), height)]);
  const [a, b] = [on(from), on(to)];
  const size = round([Math.abs(b[0] - a[0]), Math.abs(b[1] - a[1])]);
  return size[0] && size[1] ? [Math.min(a[0], b[0]), Math.min(a[1], b[1]), ...size] : a;
}

export function withSubject(recipe: Recipe, subject: Recipe["frame"]["subject"]): Recipe {
  return { ...recipe, frame: { ...recipe.frame, subject } };
}

/** The recipe with another paper; without one nothing can be exported just for it. */
export function withPrint(recipe: Recipe, print: Print | null): Recipe {
  const size = print === null && recipe.export.size === "print" ? null : recipe.export.size;
  return { ...recipe, frame: { ...recipe.frame, print }, export: { ...recipe.export, size } };
}

/** The recipe with a take that is done for one part of the empty area, or for all of it. */
export function withTake(recipe: Recipe, take: Take, madeFor: string, part: string | null): Recipe {
  const chosen = take.parts
    .filter((one) => part === null || one.part === part)
    .flatMap(({ sha256, part, box }): Patch[] => (sha256 ? [{ sha256, part, box, seed: take.seed, made_for: madeFor }] : []));
  const corners = cornerPatches(recipe);
  const others = recipe.edges.patches.filter((one) => (part === null ? !corners.includes(one) : one.part !== part));
  return { ...recipe, edges: { ...recipe.edges, seed: part === null ? take.seed : recipe.edges.seed, patches: [...others, ...chosen] } };
}

/** The take that a part of the empty area shows. */
export const seedFor = (recipe: Pick<Recipe, "edges">, part: string): number => recipe.edges.patches.find((one) => one.part === part)?.seed ?? recipe.edges.seed;

function round([x, y]: Point): [number, number] {
  return [Math.round(x * 100) / 100, Math.round(y * 100) / 100];
}
