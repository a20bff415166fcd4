/** How many of so many are done. */
export function Bar({ name, done, of }: { name: string; done: number; of: number }) {
  return (
    <div className="bar" role="progressbar" aria-label={name} aria-valuemin={0} aria-valuemax={of} aria-valuenow={done}>
      <i style={{ width: `${(100 * done) / Math.max(1, of)}%` }} />
    </div>
  );
}
