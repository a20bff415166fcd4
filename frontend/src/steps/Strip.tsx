import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { memo } from "react";

import { type Action, api, type EdgeChoice, pictureAfter, type Recipe } from "../api/client";
import { FORMATS } from "../api/limits";
import { useEdges, useVersions } from "../api/queries";
import { taking } from "../session/found";
import type { Proposal } from "../session/model";
import { previewed } from "../session/preview";
import { baseNow, recipeNow } from "../session/session";
import { percent } from "../session/shares";
import { useDesk, useKnown, useSession } from "../session/useSession";
import { useWriting } from "./export/useWriting";

/** One choice: a small picture of it, what it keeps, how much of it is new. */
interface Choice {
  name: string;
  cost: string;
  bad?: boolean;
  title?: string;
  kept: number | null;
  fresh?: number;
  chosen: boolean;
  /** Why it cannot be had. */
  refused?: string | null;
  action: Action | null;
}

/** The strip of choices under the picture: how far the correction goes, or how far the frame reaches, or what is written. */
export function Strip() {
  const step = useDesk((desk) => desk.step);
  const wide = useDesk((desk) => desk.lensPage === "wide");
  const open = useDesk((desk) => desk.comparison === null);
  if (!open) return null;
  if (step === "lens") return wide ? <Views /> : null;
  if (step === "lines") return <Ways />;
  if (step === "frame") return <Frames />;
  if (step === "edges") return <Reaches />;
  return step === "export" ? <Files /> : null;
}

/** Nothing, the tilt only, verticals too, square-on. */
function Ways() {
  const found = useDesk((desk) => desk.found);
  const presets = useKnown((known) => known.seen?.presets);
  const drawn = useKnown((known) => (recipeNow(known)?.references.length ?? 0) > 0);
  // The band is there from the first, so that the picture stays where it is when a line is drawn.
  if (found && !drawn) return <Proposed found={found} />;
  if (!presets?.length && !drawn) return <Empty words="Draw a line: how far its correction may go, and what each choice keeps, is shown here." />;
  if (!presets?.length) return <Empty words={presets ? "Only check lines so far: nothing to choose from." : "Calculating…"} />;
  return (
    <Cells
      label="What to correct"
      choices={presets.map(({ name, chosen, determined, words, kept, loss }) => ({
        name,
        cost: loss || words,
        bad: loss !== "",
        title: words,
        kept,
        chosen,
        refused: determined || chosen ? null : words,
        action: { do: "way", name },
      }))}
    />
  );
}

/** How far what was found may be taken, the one that is suggested marked; nothing is done yet. */
function Proposed({ found }: { found: Proposal }) {
  return (
    <Cells
      label="Take the proposal"
      choices={found.extents.map((one) => ({
        name: one.name,
        cost: one.extent === found.suggested ? `${one.words} · suggested` : one.words,
        kept: one.kept,
        chosen: false,
        action: taking(one),
      }))}
    />
  );
}

/** What the server says of a recipe as it is kept; what it said before until that is there. */
function useCosts<Row>(what: string, ask: (recipe: Recipe) => Promise<Row[]>): Row[] | undefined {
  const recipe = useKnown(baseNow);
  const { data } = useQuery({
    queryKey: [what, JSON.stringify(recipe)],
    queryFn: () => (recipe ? ask(recipe) : Promise.reject(new Error("no recipe"))),
    enabled: recipe !== null,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
  return data;
}

const VIEW_NAMES = { flat: "Flat", round: "Round", sideways: "Sideways" } as const;

/** The ways to put a wide picture on paper. */
function Views() {
  const rows = useCosts("views", api.views);
  return (
    <Cells
      label="How it is put on paper"
      choices={(rows ?? []).map(({ kind, words, kept, chosen, refused }) => ({
        name: VIEW_NAMES[kind],
        cost: refused ?? words,
        bad: refused !== null,
        title: refused ?? words,
        kept,
        chosen,
        refused,
        action: { do: "view", kind },
      }))}
    />
  );
}

/** Cropped, or filled, with the turn as it is. */
function Frames() {
  const data = useCosts("costs", api.costs);
  const rows = data?.filter(({ present }) => present) ?? [];
  return (
    <Cells
      label="What each choice keeps"
      choices={rows.map(({ turn, edges, label, kept, empty, width, height, loss, chosen }) => ({
        name: label,
        cost: loss || `keeps ${percent(kept)}${empty ? ` · ${percent(empty)} new` : ""}`,
        title: `${width} × ${height} pixels, keeps ${percent(kept)}`,
        bad: loss !== "",
        kept,
        fresh: empty,
        chosen,
        action: { do: "framing", turn, edges },
      }))}
    />
  );
}

const REACHES = [
  { name: "Inside the picture", has: ({ mode }: EdgeChoice) => mode === "trim", extent: null },
  { name: "Photo's own size", has: ({ extent }: EdgeChoice) => extent === "same size", extent: "same size" },
  { name: "Whole picture", has: ({ extent }: EdgeChoice) => extent === "nothing cut", extent: "nothing cut" },
] as const;

/** How far the frame reaches beyond the picture. */
function Reaches() {
  const kept = useKnown(baseNow);
  const arrived = useKnown((known) => known.kept === null);
  const { edges } = useEdges(arrived ? kept : null);
  const mode = kept?.edges.mode === "leave" ? "leave" : "fill";
  const colour = kept?.edges.colour ?? null;
  const choices = REACHES.flatMap(({ name, has, extent }): Choice[] => {
    const found = edges?.choices.find(has);
    if (!found) return [];
    const action: Action = extent === null ? { do: "edges", mode: "trim" } : { do: "edges", mode, extent, colour };
    return [
      {
        name,
        cost: found.loss || `keeps ${percent(found.kept)} · ${found.empty ? `${percent(found.empty)} ${mode === "fill" ? "new" : "empty"}` : "nothing new"}`,
        bad: found.loss !== "",
        title: `${found.width} × ${found.height} pixels, keeps ${percent(found.kept)}`,
        kept: found.kept,
        fresh: found.empty,
        chosen: found.chosen,
        action,
      },
    ];
  });
  return <Cells label="Size of the frame" choices={choices} />;
}

/** What will be written: the current state, and the versions that are chosen with it. */
function Files() {
  const session = useSession();
  const { chosen, now } = useWriting();
  const bench = useKnown((known) => known.bench);
  const frame = useKnown((known) => known.seen?.frame);
  const versions = useVersions(session.photo).filter(({ id }) => chosen.includes(id));
  if (!bench || !frame) return null;
  const format = FORMATS[bench.recipe.export.format].called;
  return (
    <div className="strip" role="list" aria-label="What will be written">
      {now && <File source={`/api/photos/${session.photo}/thumbnail/${bench.photo.revision}.jpg`} name="Current state" cost={`${format} · ${(frame.written ?? [frame.width, frame.height]).join(" × ")} px`} />}
      {versions.map(({ id, name, revision, width, height }) => (
        <File key={id} source={`/api/photos/${session.photo}/thumbnail/${revision}.jpg`} name={name} cost={`${width} × ${height} px`} />
      ))}
    </div>
  );
}

function File({ source, name, cost }: { source: string; name: string; cost: string }) {
  return (
    <div className="cell" role="listitem" style={{ cursor: "default" }}>
      <span className="cell-picture">
        <img src={source} alt="" draggable={false} />
      </span>
      <span className="cell-words">
        <span className="cell-name">{name}</span>
        <span className="cell-cost">{cost}</span>
      </span>
    </div>
  );
}

/** The band while there is nothing to choose from. */
function Empty({ words }: { words: string }) {
  return (
    <div className="strip" style={{ alignItems: "center", paddingLeft: 16 }}>
      <span className="beside">{words}</span>
    </div>
  );
}

const Cells = memo(function Cells({ label, choices }: { label: string; choices: Choice[] }) {
  const session = useSession();
  const revision = useKnown((known) => known.bench?.photo.revision);
  if (!choices.length) return <Empty words="Calculating…" />;
  return (
    <div className="strip" role="group" aria-label={label}>
      {choices.map(({ name, cost, bad, title, kept, fresh = 0, chosen, refused, action }) => (
        <button
          key={name}
          type="button"
          className="cell"
          aria-pressed={chosen}
          disabled={Boolean(refused)}
          title={refused ? `${name}: ${refused}` : title}
          {...(chosen || !action ? {} : previewed(session, action))}
          onClick={() => action && !chosen && void session.do(action)}
        >
          <span className="cell-picture">
            {revision && action && !refused && <img alt="" draggable={false} src={pictureAfter(session.photo, revision, action)} />}
          </span>
          <span className="cell-words">
            <span className="cell-name">{name}</span>
            <span className={bad ? "cell-cost bad" : "cell-cost"}>{cost}</span>
            {kept !== null && (
              <span className="bar" aria-hidden="true">
                <i style={{ width: `${100 * kept * (1 - fresh)}%` }} />
                {fresh > 0 && <i className="bar-new" style={{ width: `${100 * fresh}%` }} />}
              </span>
            )}
          </span>
        </button>
      ))}
    </div>
  );
});
