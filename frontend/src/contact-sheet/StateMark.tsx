/** The colour of a state in words; the mark and the words say the same. */
export function stateColour(state: string): string {
  if (state === "level") return "good";
  if (state === "lines disagree") return "plumb";
  if (state === "not measured") return "second";
  return "doubt";
}

/** A small drawn sign for a state: level, sloping, crossed, or an empty ring. */
export function StateMark({ state }: { state: string }) {
  return (
    <svg width="14" height="12" viewBox="0 0 14 12" aria-hidden="true" fill="none" stroke="currentColor" strokeWidth="2.4">
      {state === "level" && <path d="M1 6h12" />}
      {state === "lines disagree" && <path d="M1 2l12 8M1 10l12-8" />}
      {state === "not measured" && <circle cx="6" cy="6" r="4" strokeWidth="1.8" />}
      {!["level", "lines disagree", "not measured"].includes(state) && <path d="M1 9l12-6" />}
    </svg>
  );
}
