import { Touch } from "../../parts/Touch";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { previewed } from "../../session/preview";

/** What can be done about what the finding says; pointing at a choice shows what it changes. */
export function Offers() {
  const session = useSession();
  const offer = useKnown((known) => known.seen?.offers?.[0]);
  const advice = useKnown((known) => known.seen?.advice);
  const here = useDesk((desk) => desk.step === "lines");
  if (!here) return null;
  if (!offer) return advice ? <Advice kind={advice.kind} words={advice.words} /> : null;
  return (
    <div className="row" role="group" aria-label="Suggestion" data-offer={offer.name} style={{ flex: "0 1 auto", minWidth: 0, gap: 6, alignItems: "center" }}>
      <div className="beside" title={offer.words}>
        {offer.words}
      </div>
      {offer.choices.map(({ label }) => {
        const action = { do: "offer", name: offer.name, label } as const;
        return (
          <Touch key={label} px="8px" fontSize="0.8125rem" {...previewed(session, action)} onClick={() => void session.do(action)}>
            {label}
          </Touch>
        );
      })}
    </div>
  );
}

/** The one line that would help most; the picture shows where. */
function Advice({ kind, words }: { kind: "plumb" | "level"; words: string }) {
  const session = useSession();
  return (
    <div className="row" role="group" aria-label="Advice" style={{ flex: "0 1 auto", minWidth: 0, gap: 6, alignItems: "center" }}>
      <div className="beside" title={words}>
        {words}
      </div>
      <Touch px="8px" fontSize="0.8125rem" onClick={() => session.desk.setState({ kind, selected: null })}>
        Draw this line
      </Touch>
    </div>
  );
}
