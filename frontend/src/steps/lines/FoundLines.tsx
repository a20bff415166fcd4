import { skipToken, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api, type Found } from "../../api/client";
import { pointAt } from "../../session/desk";
import { proposalOf } from "../../session/found";
import { recipeNow } from "../../session/session";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { kindSign, KIND_NAMES } from "../../stage/layers/signs";
import { Touch } from "../../parts/Touch";

/** The step before any line is drawn: Sequor has looked at the photo. What it found is shown, and nothing is done before it is taken. */
export function FoundLines() {
  const session = useSession();
  const lens = useKnown((known) => recipeNow(known)?.lens);
  // The photo itself comes first.
  const shown = useKnown((known) => known.seen !== null);
  const aside = useDesk((desk) => desk.aside);
  const found = useQuery({
    queryKey: ["found", session.photo, lens],
    queryFn: shown && !aside ? () => api.found(session.photo) : skipToken,
    staleTime: Infinity,
    retry: false,
  });
  const putAside = (away: boolean) => session.desk.setState({ aside: away });
  if (aside)
    return (
      <Touch w="100%" mt="10px" className="boxed" onClick={() => putAside(false)}>
        Find lines for me
      </Touch>
    );
  if (found.error) return <div role="alert">{found.error.message}</div>;
  if (!found.data) return <div role="status">Looking for lines…</div>;
  return <Said found={found.data} onAside={() => putAside(true)} />;
}

/** What was found: the angles with how sure they are, and the lines. */
function Said({ found, onAside }: { found: Found; onAside: () => void }) {
  const session = useSession();
  const pointed = useDesk((desk) => desk.pointed);
  const [without, leaveOut] = useState<string[]>([]);
  const lines = found.extents[0]?.lines ?? [];

  useEffect(() => {
    session.desk.setState({ found: proposalOf(found, without) });
    return () => session.desk.setState({ found: null });
  }, [session, found, without]);

  return (
    <section aria-label="Found by Sequor" className="found">
      <div className="row" style={{ justifyContent: "space-between", alignItems: "baseline" }}>
        <h3>Found by Sequor</h3>
        {lines.length > 0 && <Touch onClick={onAside}>Put aside</Touch>}
      </div>
      <div role="status">{found.words}</div>
      {found.angles.map(({ name, words, confidence, sure }) => (
        <div key={name} className="row found-angle">
          <span>
            <strong>{name}</strong> {words}
          </span>
          <span className="beside">{confidence}</span>
          <span className="sure" aria-hidden="true">
            <i style={{ left: `${100 * sure}%` }} />
          </span>
        </div>
      ))}
      {lines.length > 0 && <div>Press a line to leave it out.</div>}
      {lines.length > 0 && (
        <ul className="found-lines" aria-label="Lines that were found">
          {lines.map(({ id, kind }, at) => {
            const out = without.includes(id);
            return (
              <li key={id} data-lit={pointed === id || undefined}>
                <button
                  type="button"
                  aria-pressed={!out}
                  aria-label={`Line ${at + 1}, ${KIND_NAMES[kind]}, ${Math.round(100 * (found.shares[id] ?? 0))}% of what was found`}
                  onPointerEnter={() => pointAt(session, id)}
                  onPointerLeave={() => pointAt(session, null)}
                  onFocus={() => pointAt(session, id)}
                  onBlur={() => pointAt(session, null)}
                  onClick={() => leaveOut(out ? without.filter((one) => one !== id) : [...without, id])}
                >
                  {kindSign(kind)}
                  {at + 1}
                </button>
              </li>
            );
          })}
        </ul>
      )}
    </section>
  );
}
