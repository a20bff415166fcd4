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

/** The words from which an outside painter paints; nothing where none is set up and none was asked for. */
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
        Painted by the outside painter from
        <div className="row" style={{ gap: 6, marginTop: 4 }}>
          <input
            className="words"
            aria-label={`${named}: words for the outside painter`}
            placeholder="sky, water, grass …"
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
          Fill from the picture instead
        </Touch>
      )}
      <Aside>
        {painter
          ? "The picture around it leaves this program for the painter that was set up at the start. The exported file says that it was painted."
          : "No outside painter is set up now: what was painted stays, nothing new can be."}
      </Aside>
    </div>
  );
}
