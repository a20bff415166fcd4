import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../../api/client";
import { Touch } from "../../parts/Touch";
import { Aside } from "../../parts/Words";

interface Props {
  hint: string | null;
  /** What is painted, for the label. */
  named: string;
  onKeep: (hint: string | null) => void;
}

/** The words from which a painting service paints; nothing where none is set up and none was asked for. */
export function HintField({ hint, named, onKeep }: Props) {
  const { data: painter } = useQuery({ queryKey: ["painter"], queryFn: api.painter, staleTime: Infinity });
  const [typed, setTyped] = useState<string | null>(null);
  if (!painter && hint === null) return null;
  const words = (typed ?? hint ?? "").trim();
  const paint = () => {
    if (words && words !== hint) onKeep(words.slice(0, 200));
    setTyped(null);
  };
  return (
    <div style={{ marginTop: 14 }}>
      <label style={{ display: "block" }}>
        Describe what to paint here
        <div className="row" style={{ gap: 6, marginTop: 4 }}>
          <input
            className="words"
            aria-label={`${named}: description for the painting service`}
            placeholder="sky, water, grass…"
            maxLength={200}
            value={typed ?? hint ?? ""}
            onChange={(event) => setTyped(event.target.value)}
            onKeyDown={(event) => event.key === "Enter" && paint()}
          />
          <Touch disabled={!painter || !words || words === hint} onClick={paint}>
            Paint
          </Touch>
        </div>
      </label>
      {hint !== null && (
        <Touch mt="6px" w="100%" onClick={() => onKeep(null)}>
          Fill from the picture
        </Touch>
      )}
      <Aside>
        {painter
          ? "This part of your picture is sent to the painting service set when Sequor was started. The exported file will say that it was painted."
          : "No painting service is set up. What was painted is kept; start Sequor with --painter to paint more."}
      </Aside>
    </div>
  );
}
