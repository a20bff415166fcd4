/** The item at a place of a list that is not empty, counted around: -1 is the last, beyond the last comes the first. */
export function around<T>(list: readonly T[], at: number): T {
  const found = list[((at % list.length) + list.length) % list.length];
  if (found === undefined) throw new RangeError("an empty list has no items");
  return found;
}
