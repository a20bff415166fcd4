import type { LineRow, Reference } from "../api/client";
import { type Known, readNow } from "./session";

/** What is said of a line now. */
export const rowOf = (known: Known, id: string): LineRow | undefined => readNow(known)?.lines.find((one) => one.id === id);

/** Whether a line is the same but for where it lies: what shows no place stays as it is while the line is moved. */
export const sameBesidesPoints = (a: Reference, b: Reference): boolean =>
  a === b || JSON.stringify({ ...a, points: 0, sigma_px: 0 }) === JSON.stringify({ ...b, points: 0, sigma_px: 0 });
