import { Choice } from "./Touch";

interface Props {
  words: string;
  /** What it is called where no words stand before it. */
  label?: string;
  value: string;
  from: readonly (readonly [value: string, name: string])[];
  disabled?: boolean;
  onChange: (value: string) => void;
}

/** One of a few, with what it is before it. */
export function Among({ words, label, value, from, disabled, onChange }: Props) {
  return (
    <label className="narrow">
      {words && <span className="beside">{words}</span>}
      <Choice aria-label={label} disabled={disabled} value={value} onChange={({ target }) => onChange(target.value)}>
        {from.map(([value, name]) => (
          <option key={value} value={value}>
            {name}
          </option>
        ))}
      </Choice>
    </label>
  );
}
