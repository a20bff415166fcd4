import { useShallow } from "zustand/react/shallow";

import { Touch } from "../parts/Touch";
import { useImports } from "./imports";

/** How far the files are that are being added, in the head of the sheet, from wherever they were added; what was refused. */
export function ImportsHead() {
  const { added, ended, dismissRefused, stopAll } = useImports(useShallow(({ added, ended, dismissRefused, stopAll }) => ({ added, ended, dismissRefused, stopAll })));
  const refused = useImports(({ running }) => Object.values(running).filter(({ error }) => error !== null).length);
  const working = ended < added;
  if (!working && !refused) return null;
  return (
    <div className="row" data-imports style={{ alignItems: "center", gap: 10, flex: 1, minWidth: 0, maxWidth: 640 }}>
      <div style={{ flex: 1, minWidth: 0 }}>
        <div className="cut" role="status">
          <strong>{working ? `Adding ${added === 1 ? "1 photo" : `${added} photos`}` : added === 1 ? "1 file read" : `${added} files read`}</strong>{" "}
          <span className="beside">
            {working ? `${ended} done` : ""}
            {refused > 0 && `${working ? " · " : ""}${refused === 1 ? "1 message" : `${refused} messages`}, told on the sheet`}
          </span>
        </div>
        {working && (
          <div className="bar" role="progressbar" aria-label="Adding photos" aria-valuemin={0} aria-valuemax={added} aria-valuenow={ended}>
            <i style={{ width: `${(100 * ended) / added}%` }} />
          </div>
        )}
      </div>
      {working && <Touch onClick={stopAll}>Cancel all</Touch>}
      {refused > 0 && <Touch onClick={dismissRefused}>Close all messages</Touch>}
    </div>
  );
}
