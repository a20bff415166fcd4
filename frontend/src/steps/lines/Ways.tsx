import { useKnown, useSession } from "../../session/useSession";
import { Touch } from "../../parts/Touch";
import { previewed } from "../../session/preview";

/** Only the tilt, leaning walls too, or square-on: each with its cost before it is taken. */
export function Ways() {
  const session = useSession();
  const presets = useKnown((state) => state.seen?.presets);
  if (!presets?.length) return null;
  return (
    <div className="row" role="group" aria-label="What to correct" style={{ gap: 5, marginTop: 4 }}>
      {presets.map(({ name, chosen, determined, words }) => (
        <Touch
          key={name}
          flex="1 1 0"
          px="4px"
          py="3px"
          fontSize="0.8125rem"
          flexDirection="column"
          gap="0"
          whiteSpace="normal"
          lineHeight="1.2"
          aria-pressed={chosen}
          disabled={!determined && !chosen}
          {...(chosen ? {} : previewed(session, { do: "way", name }))}
          onClick={() => !chosen && void session.do({ do: "way", name })}
        >
          {name}{" "}
          <small>{words}</small>
        </Touch>
      ))}
    </div>
  );
}
