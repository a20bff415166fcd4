/** The colour of a state in words; the mark and the words say the same. */
export function stateColour(state: string): string {
  if (["level", "verticals straight", "square-on"].includes(state)) return "good";
  if (state === "lines disagree") return "plumb";
  if (state === "not measured") return "second";
  return "doubt";
}

const OWN_SIGN = ["level", "verticals straight", "square-on", "lines disagree", "not measured"];

/** A small drawn sign for a state: level, upright, square, sloping, crossed, or an empty ring. */
export function StateMark({ state }: { state: string }) {
  return (
    <svg width="14" height="12" viewBox="0 0 14 12" aria-hidden="true" fill="none" stroke="currentColor" strokeWidth="2.4">
      {state === "level" && <path d="M1 6h12" />}
      {state === "verticals straight" && <path d="M2 11h10M7 0v11" />}
      {state === "square-on" && <path d="M2 1.5h10v9H2z" />}
      {state === "lines disagree" && <path d="M1 2l12 8M1 10l12-8" />}
      {state === "not measured" && <circle cx="6" cy="6" r="4" strokeWidth="1.8" />}
      {!OWN_SIGN.includes(state) && <path d="M1 9l12-6" />}
    </svg>
  );
}
