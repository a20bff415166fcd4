import type { Action, Found } from "../api/client";
import type { Desk, Proposal } from "./model";

/** What takes what was found, as far as is said. */
export const taking = ({ extent, lines }: Found["extents"][number]): Action => ({ do: "proposal", extent, lines });

/** What was found less the lines that were left out; null where none is left. */
export function proposalOf(found: Found, without: readonly string[]): Proposal | null {
  const extents = found.extents.map((one) => ({ ...one, lines: one.lines.filter(({ id }) => !without.includes(id)) }));
  const lines = extents[0]?.lines ?? [];
  return lines.length ? { lines, shares: found.shares, extents, suggested: found.suggested } : null;
}

/** What is suggested, while something waits to be taken at the step Lines. */
export function suggestedNow({ step, found, byHand, log, comparison }: Desk): Found["extents"][number] | null {
  if (step !== "lines" || byHand || log || comparison) return null;
  return found?.extents.find(({ extent }) => extent === found.suggested) ?? null;
}
