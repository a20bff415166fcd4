import { useId, useState } from "react";

interface FieldProps {
  label: string;
  /** Whether the label is only heard: something beside the field says the same. */
  hidden?: boolean;
  /** What stands in it while nothing is typed, its unit included. */
  shown: string;
  /** The unit behind it, where it does not stand in it. */
  unit?: string;
  /** In rem. */
  width?: number;
  disabled?: boolean;
  placeholder?: string;
  /** Whether an emptied field means something, and not that nothing was typed. */
  takesNothing?: boolean;
  /** Use what was typed; words when it cannot be used. */
  take: (typed: string) => string | null;
  /** An arrow key: up or right is 1; `event` tells whether Shift is held. */
  onArrow?: (by: 1 | -1, event: { shiftKey: boolean }) => void;
}

const ARROWS: Partial<Record<string, 1 | -1>> = { ArrowUp: 1, ArrowDown: -1 };

/** Something that is typed: taken on Enter or on leaving; what cannot be taken stays, with the reason under it. */
export function Field({ label, hidden, shown, unit, width = 5.25, disabled, placeholder, takesNothing, take, onArrow }: FieldProps) {
  const id = useId();
  const [typed, setTyped] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const leave = () => {
    setTyped(null);
    setWrong(null);
  };
  const accept = () => {
    if (typed === null) return;
    const why = typed.trim() || takesNothing ? take(typed.trim()) : null;
    if (why) setWrong(why);
    else leave();
  };
  const press = (event: React.KeyboardEvent) => {
    const by = ARROWS[event.key];
    if (event.key === "Enter") accept();
    else if (event.key === "Escape" && typed !== null) leave();
    else if (by && onArrow) {
      leave();
      onArrow(by, event);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <span className={hidden ? "field field-alone" : "field"}>
      <label htmlFor={id} className={hidden ? "heard" : undefined}>
        {label}
      </label>
      <span className="field-box">
        <input
          id={id}
          inputMode={takesNothing ? "text" : "decimal"}
          autoComplete="off"
          disabled={disabled}
          placeholder={placeholder}
          aria-invalid={wrong !== null}
          aria-describedby={wrong ? `${id}-wrong` : undefined}
          style={{ width: `${width}rem` }}
          value={typed ?? shown}
          onFocus={(event) => event.target.select()}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={accept}
          onKeyDown={press}
        />
        {unit && <span className="field-unit">{unit}</span>}
      </span>
      {wrong && (
        <span role="alert" id={`${id}-wrong`} className="field-wrong">
          {wrong}
        </span>
      )}
    </span>
  );
}

/** What a hand types for a number: a comma or a point, a true minus sign, the unit or not. NaN for anything else. */
export function numberIn(typed: string, unit = ""): number {
  const bare = typed.replace(unit, "").trim().replace(",", ".").replace("−", "-");
  return bare ? Number(bare) : NaN;
}

interface Props {
  label: string;
  hidden?: boolean;
  value: number;
  unit?: string;
  least: number;
  most: number;
  /** Digits after the point that are shown and taken. */
  digits?: number;
  /** By how much an arrow key changes it; with Shift ten times as much. */
  step?: number;
  width?: number;
  disabled?: boolean;
  onAccept: (value: number) => void;
}

/** A number that is typed, or changed by the arrow keys, within its limits. */
export function NumberField({ label, hidden, value, unit = "", least, most, digits = 0, step = 1, width, disabled, onAccept }: Props) {
  const round = (number: number) => Number(number.toFixed(digits));
  const shown = String(round(value));
  const take = (typed: string) => {
    const number = round(numberIn(typed, unit));
    if (!Number.isFinite(number) || number < least || number > most) return `${label}: enter a number from ${least} to ${most.toLocaleString("en")}${unit && ` ${unit}`}`;
    if (number !== Number(shown)) onAccept(number);
    return null;
  };
  const onArrow = (by: 1 | -1, { shiftKey }: { shiftKey: boolean }) => {
    const next = round(Math.min(most, Math.max(least, Number(shown) + by * step * (shiftKey ? 10 : 1))));
    if (next !== Number(shown)) onAccept(next);
  };
  return <Field label={label} hidden={hidden} shown={hidden && unit ? `${shown}${unit === "%" ? "" : " "}${unit}` : shown} unit={hidden ? undefined : unit} width={width} disabled={disabled} take={take} onArrow={onArrow} />;
}
