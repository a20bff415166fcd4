import { useQueryClient } from "@tanstack/react-query";
import { type ReactElement, useEffect, useMemo, useRef, useState } from "react";

import { putPhoto, useNeighbours } from "../api/photos";
import { later } from "../parts/later";
import { Notice } from "../parts/Notice";
import { goTo } from "../parts/path";
import { Trouble } from "../parts/Trouble";
import { useMedia } from "../parts/useMedia";
import { goToStep, stopComparing } from "../session/desk";
import type { StepName } from "../session/model";
import { closeSession, newSession, openSession } from "../session/open";
import { SessionContext, useDesk, useKnown, useSession } from "../session/useSession";
import { Stage } from "../stage/Stage";
import { useListedTakes } from "../stage/takes/useTakes";
import { useMadeTouchUps } from "../stage/takes/useTouchUps";
import { LinesStep } from "../steps/lines/LinesStep";
import { Offers } from "../steps/lines/Offers";
import { Finding } from "./Finding";
import { Primary } from "./Primary";
import { useKeys } from "./keys";
import { Route } from "./Route";

// A photo opens at Lines; what else may be needed comes when it is.
const LensStep = later(() => import("../steps/lens/LensStep").then(({ LensStep }) => LensStep));
const FrameStep = later(() => import("../steps/frame/FrameStep").then(({ FrameStep }) => FrameStep));
const EdgesStep = later(() => import("../steps/edges/EdgesStep").then(({ EdgesStep }) => EdgesStep));
const ExportStep = later(() => import("../steps/export/ExportStep").then(({ ExportStep }) => ExportStep));
const Strip = later(() => import("../steps/Strip").then(({ Strip }) => Strip));
const KeysPanel = later(() => import("./KeysPanel").then(({ KeysPanel }) => KeysPanel));
const LogPanel = later(() => import("../log/LogPanel").then(({ LogPanel }) => LogPanel));
const Compare = later(() => import("../compare/Compare").then(({ Compare }) => Compare));

const PAGES: Record<StepName, ReactElement> = { lens: <LensStep />, lines: <LinesStep />, frame: <FrameStep />, edges: <EdgesStep />, export: <ExportStep /> };

const NARROW_WINDOW = "(max-width: 56.24em)";

/** The screen where one photo is worked on: made on opening it, closed on leaving. */
export function Bench({ photoId }: { photoId: number }) {
  const [session] = useState(() => newSession(photoId));
  const queries = useQueryClient();

  useEffect(() => {
    void openSession(session);
    return () => {
      const tellList = () => {
        const photo = session.known.getState().bench?.photo;
        if (photo) putPhoto(queries, photo);
      };
      tellList();
      void closeSession(session).then(tellList);
    };
  }, [session, queries]);

  return (
    <SessionContext value={session}>
      <Watching />
      <Screen />
    </SessionContext>
  );
}

/** What goes on beside the work: takes are listed, other windows are heard, what is put away is kept. */
function Watching() {
  const session = useSession();
  const title = useKnown(({ bench }) => bench?.photo.title);
  useListedTakes();
  useMadeTouchUps();

  useEffect(() => {
    document.title = title ? `${title} · Sequor` : "Sequor";
  }, [title]);

  useEffect(() => {
    // Whoever drives the page from outside can see when what was done has arrived; nothing is drawn for it.
    const { documentElement: page } = document;
    const end = session.known.subscribe(({ kept }) => page.toggleAttribute("data-busy", kept !== null));
    return () => {
      end();
      page.removeAttribute("data-busy");
    };
  }, [session]);

  useEffect(() => {
    const leave = () => void session.keepPending();
    const comeBack = () => void session.catchUp();
    window.addEventListener("pagehide", leave);
    window.addEventListener("focus", comeBack);
    return () => {
      window.removeEventListener("pagehide", leave);
      window.removeEventListener("focus", comeBack);
    };
  }, [session]);

  useEffect(() => {
    // Windows of one browser tell each other what they did, so that none goes on from what is no longer true.
    const windows = new BroadcastChannel(`sequor photo ${session.photo}`);
    const version = () => session.known.getState().bench?.photo.version;
    windows.onmessage = ({ data }) => {
      if (data !== version()) void session.catchUp();
    };
    const end = session.known.subscribe(({ bench }, before) => {
      if (before.bench && bench && bench.photo.version !== before.bench.photo.version) windows.postMessage(bench.photo.version);
    });
    return () => {
      end();
      windows.close();
    };
  }, [session]);

  return null;
}

/** Route, page, stage, strip, finding. */
function Screen() {
  const session = useSession();
  const [keys, setKeys] = useState(false);
  const primary = useRef<HTMLButtonElement>(null);
  // The photo itself comes first.
  const ready = useKnown(({ seen }) => seen !== null);
  const neighbours = useNeighbours(session.photo, ready);

  const places = useMemo(
    () => ({
      neighbour: (by: 1 | -1) => {
        const photo = by < 0 ? neighbours.before : neighbours.after;
        if (photo !== null) goTo(`/photos/${photo}`);
      },
      toggleKeys: () => setKeys((open) => !open),
      primary: () => primary.current?.click(),
      close: () => {
        const { log, comparison, selected } = session.desk.getState();
        if (keys) setKeys(false);
        else if (comparison) stopComparing(session);
        else if (log) session.desk.setState({ log: false });
        else if (selected) session.desk.setState({ selected: null });
        return keys || comparison !== null || log || selected !== null;
      },
    }),
    [session, neighbours, keys],
  );
  useKeys(session, places);
  // What is read one after the other is what is seen one below the other.
  const narrow = useMedia(NARROW_WINDOW);

  const work = useRef<HTMLElement>(null);
  // Whoever comes here by keys or by ear is where the work is.
  useEffect(() => work.current?.focus({ preventScroll: true }), []);

  const page = (
    <section key="page" className="page" aria-label="Settings for this step">
      <Trouble what="settings">
        <Page />
      </Trouble>
    </section>
  );
  const pictures = (
    <div key="pictures" className="pictures">
      <Trouble what="picture">
        <Pictures />
      </Trouble>
    </div>
  );

  return (
    <>
      <div className="bench">
        <Route onKeys={places.toggleKeys} neighbours={neighbours} />
        <main ref={work} tabIndex={-1} className="work">
          {narrow ? [pictures, <Strip key="strip" />, page] : [page, pictures, <Strip key="strip" />]}
        </main>
        <footer className="finding">
          <Finding />
          <Offers />
          <Primary button={primary} />
        </footer>
      </div>
      {keys && <KeysPanel onClose={() => setKeys(false)} />}
      <Told />
    </>
  );
}

/** The page of the step, or the log in its place. */
function Page() {
  const step = useDesk((desk) => desk.step);
  const log = useDesk((desk) => desk.log);
  return log ? <LogPanel /> : PAGES[step];
}

/** The stage, or two states of the photo in its place. */
function Pictures() {
  const comparing = useDesk((desk) => desk.comparison !== null);
  const compared = useRef(comparing);
  useEffect(() => {
    // Back from a comparison, the keys are the stage's again.
    if (compared.current && !comparing) document.querySelector<HTMLElement>("[data-stage]")?.focus({ preventScroll: true });
    compared.current = comparing;
  }, [comparing]);
  return comparing ? <Compare /> : <Stage />;
}

/** What went wrong, or was done elsewhere. */
function Told() {
  const session = useSession();
  const notice = useKnown((known) => known.notice);
  const anew = useKnown((known) => known.stale || !known.bench);
  if (!notice) return null;
  const again = () => {
    goToStep(session, "lines");
    void session.open();
  };
  return (
    <Notice action={anew ? "Load the latest" : "Close"} onAction={() => (anew ? again() : session.tell(null))}>
      {notice}
    </Notice>
  );
}
