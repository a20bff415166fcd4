import { type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";

import { api, type Photo, type Review as Found, type ReviewExtent } from "../api/client";
import { photosAgain } from "../api/photos";
import { type Done, useWalk } from "../api/walk";
import { Mark } from "../parts/Brand";
import { Go } from "../parts/Go";
import { KeysCard } from "../parts/KeysCard";
import { photosWords } from "../parts/figures";
import { Notice } from "../parts/Notice";
import { goTo } from "../parts/path";
import { Touch } from "../parts/Touch";
import { Figure } from "../parts/Words";
import { Reviewed } from "./Reviewed";

/** So many of the next photos are fetched ahead. */
const AHEAD = 3;
const KEYS = [
  ["Enter", "take it, or leave it where nothing was found; on to the next"],
  ["L", "leave it as taken"],
  ["A", "adjust it on the bench, then back here"],
  ["← →", "turn by 0.1°, with Shift by 0.01°"],
  ["↑ ↓", "how far it goes"],
  ["B", "before"],
  ["G", "show the lines, or not"],
  ["Backspace", "one back, also Ctrl Z"],
  ["PgUp PgDn", "previous and next photo, nothing changed"],
  ["Q", "contact sheet, also Esc"],
] as const;
const STEP = 0.1;
const FINE = 0.01;
const MOST = 45;

const key = (id: number) => ["review", id];
const query = (id: number) => ({ queryKey: key(id), queryFn: () => api.review(id), staleTime: Infinity, gcTime: 60_000, retry: false });

const suggestedOf = ({ extents, suggested }: Found): ReviewExtent | undefined => extents.find(({ extent }) => extent === suggested) ?? extents[0];

/** What was found on the next photos, and the picture of what is suggested, before they are looked at. */
async function fetchAhead(queries: QueryClient, ids: number[], onFound: () => void) {
  for (const id of ids) {
    try {
      const found = await queries.fetchQuery(query(id));
      onFound();
      const first = suggestedOf(found);
      if (first) new Image().src = first.picture;
    } catch {
      // It is told when it is looked at.
    }
  }
}

/** Only the photos that want a pair of eyes, one after the other, the least sure first. */
export function Review() {
  const { photos, at, done, trouble } = useWalk();
  const queries = useQueryClient();
  const id = photos[at];
  // The route names photos as soon as they are known.
  const [, setAhead] = useState(0);
  const [keysShown, showKeys] = useState(false);
  useEffect(() => {
    document.title = "Review · Sequor";
    // The sheet is counted again when the last one is saved, however late that is.
    return () => void useWalk.getState().saved().then(() => photosAgain(queries));
  }, [queries]);
  useEffect(() => void onFromBench(queries), [queries]);
  useEffect(() => {
    void fetchAhead(queries, photos.slice(at + 1, at + 1 + AHEAD), () => setAhead((count) => count + 1));
  }, [queries, photos, at]);
  const { data, error } = useQuery({ ...query(id ?? 0), enabled: id !== undefined });
  return (
    <div className="bench">
      <header className="route">
        <div className="route-title">
          <Mark />
          <div>
            <strong>{photosWords(photos.length)} to look at</strong>
            <nav aria-label="Photos">
              <Go to="/">Contact sheet</Go>
              <span className="beside" style={{ fontSize: "0.75rem" }}>
                {id === undefined ? "" : `${at + 1} of ${photos.length}`}
              </span>
            </nav>
          </div>
        </div>
        <Steps photos={photos} at={at} done={done} />
        <div className="route-tools">
          <Touch onClick={() => showKeys(!keysShown)}>Shortcuts</Touch>
          <Touch disabled={!Object.keys(done).length} onClick={() => void back(queries)}>
            One back <kbd aria-hidden="true">Backspace</kbd>
          </Touch>
        </div>
      </header>
      {id === undefined ? (
        <End count={photos.length} />
      ) : data ? (
        <Looked key={`${id} ${data.photo.version}`} found={data} />
      ) : (
        <div className="work" role={error ? "alert" : "status"} style={{ padding: 24 }}>
          {error ? error.message : "Looking at the photo…"}
          {error && <Touch onClick={() => useWalk.getState().goTo(at + 1)}>Next photo</Touch>}
        </div>
      )}
      {keysShown && <KeysCard keys={KEYS} onClose={() => showKeys(false)} />}
      {trouble && (
        <Notice action="Close" onAction={() => useWalk.setState({ trouble: null })}>
          {trouble}
        </Notice>
      )}
    </div>
  );
}

/** Back from the bench: on to the next photo, unless nothing was done to this one there. */
async function onFromBench(queries: QueryClient) {
  const { photos, at, done, goTo } = useWalk.getState();
  const id = photos[at];
  if (id === undefined || done[id] !== "adjusted") return;
  const before = queries.getQueryData<Found>(key(id));
  await queries.invalidateQueries({ queryKey: key(id) });
  const now = await queries.fetchQuery(query(id)).catch(() => undefined);
  if (now?.photo.revision !== before?.photo.revision) goTo(at + 1);
  else useWalk.setState(({ done: { [id]: _gone, ...others } }) => ({ done: others }));
}

/** One back; what was known of that photo is asked for again. */
async function back(queries: QueryClient) {
  await useWalk.getState().undo();
  const { photos, at } = useWalk.getState();
  const id = photos[at];
  if (id !== undefined) await queries.invalidateQueries({ queryKey: key(id) });
}

/** The walk as a route of photos: what was done with those behind, and which come. */
function Steps({ photos, at, done }: { photos: number[]; at: number; done: Record<number, Done> }) {
  const queries = useQueryClient();
  const begin = Math.max(0, Math.min(at - 2, photos.length - 6));
  return (
    <nav aria-label="Photos to look at" className="traverse">
      {photos.slice(begin, begin + 6).map((id, offset) => (
        <button key={id} type="button" className="step" aria-current={begin + offset === at ? "step" : undefined} onClick={() => useWalk.getState().goTo(begin + offset)}>
          <span className="step-name cut">{queries.getQueryData<Found>(key(id))?.photo.title ?? `Photo ${begin + offset + 1}`}</span>
          <span className="step-word">{done[id] ?? queries.getQueryData<Found>(key(id))?.photo.proposal ?? ""}</span>
        </button>
      ))}
    </nav>
  );
}

function End({ count }: { count: number }) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key === "Enter" || event.key === "Escape") goTo("/");
    };
    document.addEventListener("keydown", onKey);
    return () => document.removeEventListener("keydown", onKey);
  }, []);
  return (
    <>
      <div className="work" role="status" style={{ alignContent: "center", justifyItems: "center", gridTemplate: "none" }}>
        <p style={{ fontSize: "1.25rem" }}>{count ? "That was the last one." : "No photo wants a pair of eyes now."}</p>
      </div>
      <footer className="finding">
        <div className="finding-say">{count ? "What you took, left or turned is saved." : "Photos that Sequor is not sure of are shown here."}</div>
        <button type="button" className="primary" data-primary onClick={() => goTo("/")}>
          Contact sheet
          <kbd aria-hidden="true">Enter</kbd>
        </button>
      </footer>
    </>
  );
}

/** A photo with what was found: the extents, why it is not sure, and what can be done. */
function Looked({ found }: { found: Found }) {
  const queries = useQueryClient();
  const { photo, extents, reasons, headline } = found;
  const first = useMemo(() => suggestedOf(found), [found]);
  const [chosen, choose] = useState(first);
  const [turn, setTurn] = useState(0);
  const [before, setBefore] = useState(false);
  const [lines, setLines] = useState(true);
  const [plain] = extents;
  const extent = chosen?.extent ?? null;
  const takes = extent !== null || turn !== 0;
  const walk = useWalk.getState();
  const take = () => {
    if (takes) walk.take(photo, extent, Math.round(turn * 100) / 100);
    else walk.leave(photo);
  };
  const turnBy = (by: number) => setTurn((now) => Math.max(-MOST, Math.min(MOST, Math.round((now + by) * 100) / 100)));
  const further = (by: 1 | -1) => {
    const next = extents[extents.findIndex((one) => one === chosen) + by];
    if (next) choose(next);
  };
  const adjust = () => {
    walk.adjust(photo.id);
    goTo(`/photos/${photo.id}`);
  };

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.altKey) return;
      const name = event.key.length === 1 ? event.key.toLowerCase() : event.key;
      if (event.ctrlKey || event.metaKey) {
        if (name !== "z") return;
        void back(queries);
        event.preventDefault();
        return;
      }
      const step = event.shiftKey ? FINE : STEP;
      const run = {
        Enter: take,
        a: adjust,
        l: () => walk.leave(photo),
        b: () => setBefore((on) => !on),
        g: () => setLines((on) => !on),
        ArrowLeft: () => turnBy(-step),
        ArrowRight: () => turnBy(step),
        ArrowUp: () => further(-1),
        ArrowDown: () => further(1),
        Backspace: () => void back(queries),
        PageUp: () => walk.goTo(useWalk.getState().at - 1),
        PageDown: () => walk.goTo(useWalk.getState().at + 1),
        q: () => goTo("/"),
        Escape: () => goTo("/"),
      }[name];
      // A control that has the focus keeps what it is pressed by.
      if (!run || (name === "Enter" && (event.target as Element).closest("button, a"))) return;
      event.preventDefault();
      run();
    };
    document.addEventListener("keydown", onKey);
    return () => document.removeEventListener("keydown", onKey);
  });

  const shown = before ? plain : chosen;
  return (
    <>
      <div className="work" data-reviewed={photo.id}>
        <div className="page">
          <div className="leaf">
            <h1 className="review-head">{headline}</h1>
            <dl className="reasons">
              {reasons.map(({ words, figure }) => (
                <div key={words}>
                  <dt>{words}</dt>
                  <dd>{figure && <Figure>{figure}</Figure>}</dd>
                </div>
              ))}
            </dl>
            {extents.length > 1 && (
              <>
                <h2 className="heading">How far</h2>
                <div role="group" aria-label="How far" className="reaches">
                  {extents.map((one) => (
                    <button key={one.name} type="button" className="cell" aria-pressed={one === chosen} onClick={() => choose(one)}>
                      <span className="cell-picture">
                        <img src={one.picture} alt="" />
                      </span>
                      <span className="cell-words">
                        <span className="cell-name">
                          {one.name}
                          {one.extent !== null && one.extent === found.suggested ? ", suggested" : ""}
                        </span>
                        <span className="cell-cost">{one.words}</span>
                        <span className="bar">
                          <i style={{ width: `${100 * one.kept}%` }} />
                        </span>
                      </span>
                    </button>
                  ))}
                </div>
              </>
            )}
          </div>
          <div className="review-tools">
            <Touch aria-pressed={lines} onClick={() => setLines(!lines)}>
              Lines <kbd aria-hidden="true">G</kbd>
            </Touch>
            <Touch aria-pressed={before} onClick={() => setBefore(!before)}>
              Before <kbd aria-hidden="true">B</kbd>
            </Touch>
          </div>
        </div>
        <div className="pictures">{shown && <Reviewed of={shown} lines={lines && !before ? shown.lines : []} turn={before ? 0 : turn} title={photo.title} />}</div>
        <div className="strip review-acts">
          <button type="button" className="act" onClick={adjust}>
            <kbd>A</kbd>
            <span>
              <strong>Adjust it</strong>
              <span className="beside">on the bench, then back here</span>
            </span>
          </button>
          <button type="button" className="act" onClick={() => walk.leave(photo)}>
            <kbd>L</kbd>
            <span>
              <strong>Leave it as taken</strong>
              <span className="beside">the proposal is put aside</span>
            </span>
          </button>
          <div className="act">
            <Touch aria-label="Turn by 0.1° to the left" onClick={() => turnBy(-STEP)}>
              <kbd>←</kbd>
            </Touch>
            <Touch aria-label="Turn by 0.1° to the right" onClick={() => turnBy(STEP)}>
              <kbd>→</kbd>
            </Touch>
            <span>
              <strong>Turn it a little</strong>
              <span className="beside">{turn ? turnWords(turn) : "by 0.1°, with Shift by 0.01°"}</span>
            </span>
          </div>
        </div>
      </div>
      <footer className="finding">
        <div role="status" className="finding-say" style={{ cursor: "default" }}>
          {sayOf(photo, chosen, turn)}
        </div>
        <button type="button" className="primary" data-primary onClick={take}>
          {takes ? "Take it, next" : "Leave it, next"}
          <kbd aria-hidden="true">Enter</kbd>
        </button>
      </footer>
    </>
  );
}

const turnWords = (turn: number) => `${Math.abs(turn).toFixed(2)}° to the ${turn > 0 ? "right" : "left"}`;

function sayOf({ title }: Photo, chosen: ReviewExtent | undefined, turn: number): string {
  const turned = turn ? `turned ${turnWords(turn)}` : "";
  if (!chosen || chosen.extent === null) return `${title}: ${turned || "as it is"}.`;
  return `${title}: ${chosen.name.toLowerCase()}, ${chosen.words}${turned ? `, ${turned}` : ""}.`;
}
