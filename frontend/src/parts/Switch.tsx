/** Something that is on or off: a ruled box that is filled when it is on. It keeps its name. */
export function Switch({ on, label, onTurn }: { on: boolean; label: string; onTurn: () => void }) {
  return (
    <button type="button" className="switch" role="switch" aria-checked={on} onClick={onTurn}>
      <i aria-hidden="true" />
      {label}
    </button>
  );
}
