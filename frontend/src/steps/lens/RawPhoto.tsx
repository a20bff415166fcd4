import { LIMITS } from "../../api/limits";
import { NumberField } from "../../parts/NumberField";
import { Touch } from "../../parts/Touch";
import { Aside, Heading } from "../../parts/Words";
import { recipeNow } from "../../session/session";
import { useKnown, useSession } from "../../session/useSession";

/** What the camera's white balance is taken for where the file does not tell it. */
const DAYLIGHT = [5500, 0] as const;

/** How a raw photo is developed: the light that looks white, and the exposure. Nothing for other photos. */
export function RawPhoto() {
  const session = useSession();
  const photo = useKnown((known) => known.bench?.photo);
  const develop = useKnown((known) => recipeNow(known)?.develop ?? null);
  if (!photo?.raw) return null;
  const [warm, tinted] = photo.as_shot ?? DAYLIGHT;
  const own = develop?.temperature != null || develop?.tint != null;
  const temperature = develop?.temperature ?? warm;
  const tint = develop?.tint ?? tinted;
  const exposure = develop?.exposure ?? 0;
  const white = (to: { temperature?: number | null; tint?: number | null }) => void session.do({ do: "white", ...to });
  return (
    <section aria-label="Raw photo" className="fields-in-line" style={{ marginTop: 18 }}>
      <Heading beside={own ? "" : "white balance as shot"}>Raw photo</Heading>
      <NumberField
        label="Temperature"
        unit="K"
        step={50}
        least={LIMITS["white.temperature"][0]}
        most={LIMITS["white.temperature"][1]}
        value={temperature}
        onAccept={(to) => white({ temperature: to })}
      />
      <NumberField
        label="Tint (+ magenta)"
        least={LIMITS["white.tint"][0]}
        most={LIMITS["white.tint"][1]}
        value={tint}
        onAccept={(to) => white({ tint: to })}
      />
      <NumberField
        label="Exposure"
        unit="stops"
        digits={2}
        step={0.1}
        least={LIMITS["exposure.stops"][0]}
        most={LIMITS["exposure.stops"][1]}
        value={exposure}
        onAccept={(stops) => void session.do({ do: "exposure", stops })}
      />
      <Touch mt="6px" w="100%" fontSize="0.8125rem" disabled={!own} onClick={() => white({ temperature: null, tint: null })}>
        White balance as shot
      </Touch>
      {!photo.as_shot && <Aside>Nothing is known of this camera’s colours, so its white balance stays as shot.</Aside>}
    </section>
  );
}
