import { skipToken, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api, type Found } from "../../api/client";
import { pointAt } from "../../session/desk";
import { recipeNow } from "../../session/session";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { kindSign, KIND_NAMES } from "../../stage/layers/signs";
import { Progress } from "../../parts/Progress";
import { Touch } from "../../parts/Touch";

/** The step before any line is drawn: Sequor is asked to find some. What it finds is shown, and nothing is done before it is taken. */
export function FoundLines() {
  const session = useSession();
  const lens = useKnown((known) => recipeNow(known)?.lens);
  const [asked, ask] = useState(false);
  const found = useQuery({
    queryKey: ["found", session.photo, lens],
    queryFn: asked ? () => api.found(session.photo) : skipToken,
    staleTime: Infinity,
  });
  if (!asked)
    return (
      <Touch w="100%" mt="10px" className="boxed" onClick={() => ask(true)}>
        Find lines for me
      </Touch>
    );
  if (found.error) return <div role="alert">{found.error.message}</div>;
  if (!found.data) return <Progress name="Looking for lines" share={0.5} />;
  return <Proposal found={found.data} onAside={() => ask(false)} />;
}

/** What was found: the angles with how sure they are, the lines, and how far it may be taken. */
function Proposal({ found, onAside }: { found: Found; onAside: () => void }) {
  const session = useSession();
  const pointed = useDesk((desk) => desk.pointed);
  const [without, leaveOut] = useState<string[]>([]);
  const widest = found.extents[found.extents.length - 1];
  const lines = found.extents[0]?.lines ?? [];
  const kept = lines.filter(({ id }) => !without.includes(id));

  useEffect(() => {
    const shown = found.extents[0]?.lines.filter(({ id }) => !without.includes(id));
    session.desk.setState({ found: shown?.length ? shown : null });
    return () => session.desk.setState({ found: null });
  }, [session, found, without]);

  const take = ({ extent, lines: all }: Found["extents"][number]) =>
    void session.do({ do: "proposal", extent, lines: all.filter(({ id }) => !without.includes(id)) });
  return (
    <section aria-label="Found by Sequor" className="found">
      <div role="status">{found.words}</div>
      {found.angles.map(({ name, words, confidence }) => (
        <div key={name} className="row" style={{ justifyContent: "space-between", gap: 8 }}>
          <span>
            <strong>{name}</strong> {words}
          </span>
          <span className="beside">{confidence}</span>
        </div>
      ))}
      {widest && (
        <div className="row" role="group" aria-label="Take the proposal" style={{ flexDirection: "column", gap: 4, marginTop: 6 }}>
          {found.extents.map((one) => (
            <Touch key={one.extent} className="boxed" justifyContent="space-between" disabled={kept.length === 0} onClick={() => take(one)}>
              <span>Take: {one.name}</span>
              <span className="beside">{one.words}</span>
            </Touch>
          ))}
        </div>
      )}
      {lines.length > 0 && (
        <div className="row" style={{ justifyContent: "space-between", alignItems: "baseline" }}>
          <span>Press a line to leave it out.</span>
          <Touch onClick={onAside}>Put aside</Touch>
        </div>
      )}
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
