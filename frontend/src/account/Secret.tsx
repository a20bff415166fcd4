interface Props {
  label: string;
  name: "current-password" | "new-password";
  value: string;
  onType: (value: string) => void;
}

/** A field for a password; the browser may keep it and fill it in. */
export function Secret({ label, name, value, onType }: Props) {
  return (
    <label className="account-field">
      <span>{label}</span>
      <input className="words" type="password" autoComplete={name} maxLength={128} required value={value} onChange={({ target }) => onType(target.value)} />
    </label>
  );
}
