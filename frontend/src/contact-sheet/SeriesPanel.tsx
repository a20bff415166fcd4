import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../api/client";
import { Touch } from "../parts/Touch";
import { choose, useChosen } from "./chosen";
import { begin } from "./working";

const WHAT = { attitude: "Tilt and verticals (one tripod position)", lens: "Distortion (one lens and focal length)" } as const;

type What = keyof typeof WHAT;

/** The chosen photos solved together: what they tell, whether they agree, and only then whether it is done. */
export function SeriesPanel() {
  const queries = useQueryClient();
  const numbers = useChosen((state) => state.numbers);
  const [what, set] = useState<What>("attitude");
  const photos = [...numbers];
  const { data, error } = useQuery({ queryKey: ["photos", "series", photos, what], queryFn: () => api.series(photos, what), enabled: photos.length > 1, retry: false });
  const odd = data?.odd ?? null;
  return (
    <section className="sheet-panel" aria-label="Series">
      <div className="row" role="group" aria-label="What the photos share">
        {Object.entries(WHAT).map(([name, words]) => (
          <Touch key={name} aria-pressed={what === name} onClick={() => set(name as What)}>
            {words}
          </Touch>
        ))}
      </div>
      <div role={error ? "alert" : "status"} style={{ flex: "1 1 24rem" }}>
        {photos.length < 2 ? "Choose two photos or more." : error ? error.message : data ? data.words.join(" ") : "Solving…"}
      </div>
      {odd !== null && <Touch onClick={() => choose(photos.filter((id) => id !== odd))}>Leave it out</Touch>}
      <Touch
        className="boxed"
        disabled={!data || data.refused}
        onClick={() => void begin(queries, () => api.share(photos, what)).then((begun) => begun && useChosen.setState({ panel: null }))}
      >
        Solve {photos.length} photos together
      </Touch>
    </section>
  );
}
