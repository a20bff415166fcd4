import { Touch } from "../parts/Touch";
import { Bar } from "./Bar";
import { useImports } from "./imports";

/** A file on its way in. */
export function ImportCard({ of }: { of: number }) {
  const one = useImports((state) => state.running[of]);
  if (!one) return null;
  return (
    <div role="listitem" className="card card-coming">
      <div className="card-picture">
        {one.look ? <img src={one.look} alt={`First look at ${one.name}`} /> : <Bar name={`Importing ${one.name}`} done={Math.round(one.share * 100)} of={100} />}
      </div>
      <div className="card-words">
        <div className="cut" style={{ fontWeight: 600 }}>
          {one.name}
        </div>
        <div className="card-state">
          <span className="cut beside">
            {one.words} {one.share > 0 ? `${Math.round(one.share * 100)}%` : ""}
          </span>
          <Touch className="card-act" aria-label={`Cancel ${one.name}`} onClick={one.stop}>
            Cancel
          </Touch>
        </div>
      </div>
    </div>
  );
}
