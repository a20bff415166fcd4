import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, type CarryPart, type Photo } from "../api/client";
import { Among } from "../parts/Among";
import { photosWords } from "../parts/figures";
import { Switch } from "../parts/Switch";
import { Touch } from "../parts/Touch";
import { useChosen } from "./chosen";
import { begin } from "./working";

const PARTS: Record<CarryPart, string> = {
  lens: "Lens",
  ratio: "Aspect ratio",
  extent: "What is corrected",
  amount: "How much",
  edges: "Edges",
  export: "Export settings",
  frame: "Crop, as a share",
  attitude: "Tilt and verticals (same tripod)",
};

/** From which photo, and what of it, is carried over to the others that are chosen. */
export function CarryPanel({ photos }: { photos: Photo[] }) {
  const queries = useQueryClient();
  const numbers = useChosen((state) => state.numbers);
  const here = useChosen((state) => state.here);
  const [parts, setParts] = useState<CarryPart[]>(["lens", "ratio"]);
  const [from, setFrom] = useState<number | null>(null);
  const among = photos.filter(({ id }) => numbers.has(id) || id === here);
  const measured = among.find(({ state }) => state !== "not measured");
  const source = among.find(({ id }) => id === (from ?? measured?.id ?? here)) ?? among[0];
  const others = [...numbers].filter((id) => id !== source?.id);
  if (!source) return null;
  const press = () => void begin(queries, () => api.carry(source.id, others, parts)).then((begun) => begun && useChosen.setState({ panel: null }));
  return (
    <section className="sheet-panel" aria-label="Carry over">
      <Among
        words="From"
        value={String(source.id)}
        from={among.map(({ id, title, state }) => [String(id), `${title} (${state})`])}
        onChange={(id) => setFrom(Number(id))}
      />
      {source.revision !== null && <img className="panel-picture" src={`/api/photos/${source.id}/thumbnail/${source.revision}.jpg`} alt="" />}
      <div className="row" role="group" aria-label="What is carried over" style={{ flexWrap: "wrap", columnGap: 18, flex: 1 }}>
        {Object.entries(PARTS).map(([name, words]) => {
          const part = name as CarryPart;
          const on = parts.includes(part);
          return <Switch key={part} on={on} label={words} onTurn={() => setParts(on ? parts.filter((one) => one !== part) : [...parts, part])} />;
        })}
        <div className="beside" style={{ flexBasis: "100%" }}>
          Lines, fills and touch-ups stay with their photo. What cannot be carried over is told, with its reason.
        </div>
      </div>
      <Touch className="boxed" disabled={!parts.length || !others.length} onClick={press}>
        {others.length ? `Carry over to ${photosWords(others.length)}` : "Choose the photos to carry over to"}
      </Touch>
    </section>
  );
}
