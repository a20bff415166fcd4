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
    <div className="row" role="group" aria-label="Suggestion" data-offer={offer.name} style={{ flex: "none", gap: 6, alignItems: "center", justifyContent: "flex-end", flexWrap: "wrap" }}>
      <div style={{ fontSize: "0.8125rem", lineHeight: "1.25", color: "var(--chakra-colors-second)", maxWidth: 250, textAlign: "right", paddingRight: 4 }}>
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
    <div className="row" role="group" aria-label="Advice" style={{ flex: "none", gap: 6, alignItems: "center", justifyContent: "flex-end" }}>
      <div style={{ fontSize: "0.8125rem", lineHeight: "1.25", color: "var(--chakra-colors-second)", maxWidth: 360, textAlign: "right", paddingRight: 4 }}>
        {words}
      </div>
      <Touch px="8px" fontSize="0.8125rem" onClick={() => session.desk.setState({ kind, selected: null })}>
        Draw this line
      </Touch>
    </div>
  );
}
