import { useId, useRef } from "react";

interface Props {
  label: string;
  /** Where it is, in words or as a number. */
  words: string;
  /** What stands at its end in their place, such as a field to type into. */
  end?: React.ReactNode;
  /** Whether all of it stands in one row. */
  inline?: boolean;
  /** Where it stands, 0 to 1. */
  value: number;
  /** The hand leads it. */
  onLead?: (to: number) => void;
  /** The hand has let go of it, or a key was pressed. */
  onLetGo: (to: number) => void;
}

const STEPS = 200;

/** A number between two ends that is dragged; the picture follows, and letting go is one action. */
export function Slide({ label, words, end, inline, value, onLead, onLetGo }: Props) {
  const id = useId();
  const held = useRef<number | null>(null);
  const lead = (to: number) => {
    held.current = to;
    if (onLead) onLead(to);
    else onLetGo(to);
  };
  const letGo = () => {
    if (held.current !== null && onLead) onLetGo(held.current);
    held.current = null;
  };
  return (
    <div className={inline ? "slide slide-row" : "slide"}>
      <label htmlFor={id}>{label}</label>
      {end ?? <span className="slide-words mono">{words}</span>}
      <input
        id={id}
        type="range"
        min={0}
        max={STEPS}
        step={1}
        value={Math.round(value * STEPS)}
        aria-valuetext={words}
        onChange={({ target }) => lead(Number(target.value) / STEPS)}
        onPointerUp={letGo}
        onKeyUp={letGo}
        onBlur={letGo}
      />
    </div>
  );
}
