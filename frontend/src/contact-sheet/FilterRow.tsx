import { useRef } from "react";

import { ask, askForAll, type Asked, NARROWED, narrows, type Order, type Stand, useAsked } from "../api/asked";
import type { Filters, Sheet } from "../api/client";
import { useFilters } from "../api/photos";
import { Among } from "../parts/Among";
import { said } from "../parts/figures";
import { Choice, Touch } from "../parts/Touch";
import { openPanel, useChosen } from "./chosen";

const STANDS: { stand: Stand | undefined; words: string }[] = [
  { stand: undefined, words: "All" },
  { stand: "sure", words: "Sure" },
  { stand: "eyes", words: "To look at" },
  { stand: "corrected", words: "Corrected" },
  { stand: "left", words: "Left" },
];

const ORDERS: Record<Order, string> = { came: "as they came", taken: "time taken", title: "title", camera: "camera", confidence: "least sure first" };

const WAIT_MS = 200;

/** Which photos are shown and in which order. */
export function FilterRow({ sheet }: { sheet: Sheet | undefined }) {
  const asked = useAsked();
  const large = useChosen((state) => state.large);
  const open = useChosen((state) => state.panel === "filter");
  const soon = useRef<ReturnType<typeof setTimeout>>(undefined);
  const narrowed = NARROWED.filter((name) => asked[name] !== undefined).length;
  return (
    <div className="filter-row">
      <input
        className="words sheet-find"
        type="search"
        aria-label="Find by title"
        placeholder="Find by title"
        maxLength={100}
        defaultValue={asked.find ?? ""}
        key={asked.find === undefined ? "empty" : "found"}
        onChange={({ target }) => {
          clearTimeout(soon.current);
          soon.current = setTimeout(() => ask({ find: target.value.trim() || undefined }), WAIT_MS);
        }}
      />
      <div className="row" role="group" aria-label="How photos stand">
        {STANDS.map(({ stand, words }) => (
          <Touch key={words} aria-pressed={asked.stand === stand} onClick={() => ask({ stand })}>
            {words} <small>{sheet ? said(stand === undefined ? sheet.total : (sheet.stands[stand] ?? 0)) : ""}</small>
          </Touch>
        ))}
      </div>
      <Touch aria-expanded={open} onClick={() => openPanel("filter")}>
        Filter{narrowed ? `: ${narrowed}` : ""}
      </Touch>
      {narrows(asked) && <Touch onClick={askForAll}>Show all</Touch>}
      <span style={{ flex: 1 }} />
      <label className="row" style={{ gap: 6, alignItems: "center" }}>
        <span className="beside">Order</span>
        <Choice value={asked.by ?? "came"} onChange={({ target }) => ask({ by: target.value as Order, down: undefined })}>
          {Object.entries(ORDERS).map(([order, words]) => (
            <option key={order} value={order}>
              {words}
            </option>
          ))}
        </Choice>
      </label>
      <Touch aria-pressed={asked.down !== undefined} onClick={() => ask({ down: asked.down === undefined ? "true" : undefined })}>
        Reversed
      </Touch>
      <div className="row" role="group" aria-label="Size of the pictures">
        <Touch aria-pressed={!large} onClick={() => useChosen.setState({ large: false })}>
          Small
        </Touch>
        <Touch aria-pressed={large} onClick={() => useChosen.setState({ large: true })}>
          Large
        </Touch>
      </div>
    </div>
  );
}

const SURENESS = ["sure", "likely", "unsure", "not looked"].map((value) => ({ value, name: value === "not looked" ? "not looked at yet" : value, count: null }));
const EXPORTED = [
  { value: "false", name: "not exported as they are", count: null },
  { value: "true", name: "exported", count: null },
];

/** What narrows the photos down, one by one. */
export function FilterPanel() {
  const filters = useFilters();
  return (
    <section className="sheet-panel" aria-label="Filter">
      <Narrow name="state" words="State" from={filters?.state} />
      <Narrow name="sureness" words="Proposal" from={SURENESS} />
      <Narrow name="camera" words="Camera" from={filters?.camera} />
      <Narrow name="lens" words="Lens" from={filters?.lens} />
      <Narrow name="ratio" words="Aspect ratio" from={filters?.ratio} />
      <Narrow name="brought" words="Import" from={filters?.brought} />
      <Narrow name="group" words="Group" from={filters?.group} />
      <Narrow name="exported" words="Export" from={EXPORTED} />
    </section>
  );
}

interface NarrowProps {
  name: Extract<keyof Asked, keyof Filters | "sureness" | "exported">;
  words: string;
  from: { value: string; name: string; count: number | null }[] | undefined;
}

function Narrow({ name, words, from }: NarrowProps) {
  const value = useAsked((asked) => asked[name]);
  const named = from?.map(({ value, name, count }) => [value, count === null ? name : `${name} (${said(count)})`] as const) ?? [];
  return <Among words={words} disabled={!from?.length} value={value ?? ""} from={[["", "any"], ...named]} onChange={(chosen) => ask({ [name]: chosen || undefined })} />;
}
