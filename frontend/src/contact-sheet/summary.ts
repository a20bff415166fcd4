import type { Photo } from "../api/client";

const NUMBERS = ["no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"];

const say = (count: number) => NUMBERS[count] ?? String(count);
const start = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);

/** The finding of the contact sheet: how many photos there are and how they stand. */
export function summary(photos: Photo[]): string {
  if (photos.length === 0) return "No photos yet: drop some here or choose them, then open one and lay a line along something level.";
  const count = (state: string) => photos.filter((photo) => photo.state === state).length;
  const waiting = count("not measured");
  const disagreeing = count("lines disagree");
  const done = ["level", "upright", "square-on"].flatMap((state) => (count(state) ? [`${say(count(state))} ${state}`] : []));
  const parts = done.length ? done : ["none is level yet"];
  if (waiting) parts.push(`${say(waiting)} to be measured`);
  if (disagreeing) parts.push(`in ${say(disagreeing)} the lines disagree`);
  const all = start(`${say(photos.length)} photo${photos.length === 1 ? "" : "s"}: ${parts.join(", ")}.`);
  const rendered = photos.some((photo) => photo.camera === "Invented Optics IO-1");
  const hint = waiting === photos.length ? " Open one and lay a line along something level or upright." : "";
  return all + hint + (rendered ? " The demo photos are rendered, not taken." : "");
}
