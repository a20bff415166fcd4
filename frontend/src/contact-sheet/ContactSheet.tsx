import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import { askedWords, useAsked } from "../api/asked";
import { api, type Photo } from "../api/client";
import { usePhotos, useSheet } from "../api/photos";
import { useWalk } from "../api/walk";
import { Mark } from "../parts/Brand";
import { counted as countOf, photosWords, said } from "../parts/figures";
import { Go } from "../parts/Go";
import { KeysCard } from "../parts/KeysCard";
import { Notice } from "../parts/Notice";
import { goTo } from "../parts/path";
import { Touch } from "../parts/Touch";
import { Trouble } from "../parts/Trouble";
import { CarryPanel } from "./CarryPanel";
import { choose, chooseAll, chooseNone, chooseOne, chooseStanding, openPanel, useChosen } from "./chosen";
import { ChosenBar, forget, useCounted } from "./ChosenBar";
import { ExportPanel } from "./ExportPanel";
import { chosenFiles, droppedFiles, type Brought } from "./files";
import { FilterPanel, FilterRow } from "./FilterRow";
import { useImports } from "./imports";
import { BatchMessages, ImportMessages } from "./Messages";
import { GroupPanel, TitlePanel } from "./NamePanels";
import { PhotoGrid } from "./PhotoGrid";
import { SeriesPanel } from "./SeriesPanel";
import { countedWords, useTaking } from "./taking";
import { begin, complain, takeUp, undoLast, useWork } from "./working";
import { WorkHead } from "./WorkHead";

const KEYS = [
  ["arrows", "from photo to photo"],
  ["Home End", "the first and the last photo"],
  ["Space", "choose the photo, or not"],
  ["Shift arrows", "choose all on the way"],
  ["Ctrl A", "choose all that are shown"],
  ["Enter", "open the photo; elsewhere: as the dark button at the foot says"],
  ["F2", "edit the title"],
  ["Delete", "remove what is chosen"],
  ["Ctrl Z", "undo what was done last to many photos"],
  ["Esc", "close what is open, then choose none"],
  ["?", "this list"],
] as const;

const ACCEPTED = "image/*,.dng,.cr2,.cr3,.nef,.arw,.raf,.orf,.rw2,.pef,.srw,.jxl,.heic,.tif,.tiff";

/** All photos as small pictures, each with how it stands; what is done to many of them at once. */
export function ContactSheet() {
  const { photos, known, error, more, changes } = usePhotos();
  const sheet = useSheet();
  const queries = useQueryClient();
  const account = useQuery({ queryKey: ["session"], queryFn: api.session, staleTime: Infinity }).data?.account;
  const add = useImports((state) => state.add);
  const panel = useChosen((state) => state.panel);
  const numbers = useChosen((state) => state.numbers);
  const trouble = useWork((state) => state.trouble);
  const last = useWork((state) => state.last);
  const [over, setOver] = useState(false);
  const [telling, setTelling] = useState(false);
  const [keysShown, showKeys] = useState(false);
  const chooser = useRef<HTMLInputElement>(null);
  const folderChooser = useRef<HTMLInputElement>(null);
  const bring = ({ files, passedOver, folder }: Brought) => {
    if (files.length || passedOver) add(queries, files, () => void changes.again(), { folder, passedOver });
  };

  useEffect(() => {
    document.title = "Contact sheet · Sequor";
    void takeUp(queries);
  }, [queries]);

  const attempt = useCallback(
    async (work: () => Promise<unknown>) => {
      try {
        await work();
        void changes.count();
      } catch (problem) {
        complain(problem);
        await changes.again();
      }
    },
    [changes],
  );

  // Which cards there are is asked for when one is pressed: the cards are not drawn anew for it.
  const shown = useRef(photos);
  useEffect(() => {
    shown.current = photos;
  }, [photos]);
  const actions = useMemo(
    () => ({
      rename: (photo: Photo, title: string) => void attempt(async () => changes.put(await api.rename(photo, title))),
      recover: (photo: Photo) => void attempt(async () => changes.put(await api.recover(photo))),
      choose: (photo: Photo, how: { more: boolean; range: boolean }) => chooseOne(shown.current, photo.id, how),
      unseen: () => void changes.again(),
    }),
    [attempt, changes],
  );

  const remove = useCallback(() => {
    const { numbers: chosen, here } = useChosen.getState();
    const gone = chosen.size ? [...chosen] : here === null ? [] : [here];
    if (!gone.length) return;
    void attempt(async () => {
      await api.removeAll(gone);
      const all = new Set(gone);
      changes.drop(all);
      forget(all);
      useWork.setState({ last: { removed: gone } });
    });
  }, [attempt, changes]);

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if ((event.target as Element).matches("input:not([type=checkbox]), select, textarea")) return;
      const held = event.ctrlKey || event.metaKey;
      const key = event.key.toLowerCase();
      if (held && key === "z" && !event.shiftKey) void undoLast(queries);
      else if (held && key === "a") void chooseAll().catch(complain);
      else if (event.key === "Delete" || event.key === "Backspace") remove();
      else if (event.key === "?") showKeys((shown) => !shown);
      else if (event.key === "Escape") {
        if (keysShown) showKeys(false);
        else if (useChosen.getState().panel) useChosen.setState({ panel: null });
        else chooseNone();
      } else if (event.key === "Enter" && !(event.target as Element).closest("button, a, input")) document.querySelector<HTMLElement>("[data-primary]")?.click();
      else return;
      event.preventDefault();
    };
    document.addEventListener("keydown", onKey);
    return () => document.removeEventListener("keydown", onKey);
  }, [queries, remove, keysShown]);

  const removed = last && "removed" in last ? last.removed : null;
  return (
    <div
      className="sheet-page"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => event.currentTarget === event.target && setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        void droppedFiles(event.dataTransfer).then(bring);
      }}
    >
      <header className="route sheet-head">
        <div className="route-title" style={{ borderBottom: 0, width: "auto" }}>
          <Mark />
          <div>
            <strong>Contact sheet</strong>
            <nav aria-label="Sequor" className="beside" style={{ fontSize: "0.75rem" }}>
              <Go to="/going-on">What is going on</Go>
              {account && (
                <>
                  {" · "}
                  <Go to="/account">{account}</Go>
                </>
              )}
            </nav>
          </div>
        </div>
        <WorkHead onTold={() => setTelling(!telling)} />
        <Touch disabled={!last} title={last && "words" in last ? last.words : undefined} onClick={() => void undoLast(queries)}>
          Undo
        </Touch>
        <Touch onClick={() => showKeys(!keysShown)}>Shortcuts</Touch>
        <Touch className="boxed" onClick={() => chooser.current?.click()}>
          Add photos…
        </Touch>
        <Touch className="boxed" onClick={() => folderChooser.current?.click()}>
          Add a folder…
        </Touch>
        <Files label="Photo files" field={chooser} onFiles={bring} accept={ACCEPTED} />
        <Files label="A folder of photos" field={folderChooser} onFiles={bring} folder />
      </header>
      <FilterRow sheet={sheet.data} />
      {panel === "filter" && <FilterPanel />}
      <ImportMessages />
      {telling && <BatchMessages onClose={() => setTelling(false)} />}
      <Trouble what="contact sheet">
        <PhotoGrid photos={photos} known={known} more={more} actions={actions} over={over} />
      </Trouble>
      {panel === "carry" && <CarryPanel photos={photos} />}
      {panel === "export" && <ExportPanel />}
      {panel === "title" && <TitlePanel photos={photos} />}
      {panel === "group" && <GroupPanel />}
      {panel === "series" && <SeriesPanel />}
      <ChosenBar total={sheet.data?.asked ?? photos.length} onRemove={remove} />
      <Foot words={error ? error.message : (sheet.data?.words ?? "Loading photos…")} sure={sheet.data?.stands.sure ?? 0} eyes={sheet.data?.stands.eyes ?? 0} photos={photos} onAdd={() => chooser.current?.click()} />
      {keysShown && <KeysCard keys={KEYS} onClose={() => showKeys(false)} />}
      {removed && (
        <Notice action="Undo" onAction={() => void undoLast(queries)}>
          Removed {photosWords(removed.length)}. {removed.length === 1 ? "Its original and history are" : "Their originals and histories are"} kept.
        </Notice>
      )}
      {trouble && (
        <Notice action="Close" onAction={() => useWork.setState({ trouble: null })}>
          {trouble}
        </Notice>
      )}
      {numbers.size > 0 && <span className="heard" role="status">{`${numbers.size} chosen`}</span>}
    </div>
  );
}

interface FilesProps {
  label: string;
  field: React.RefObject<HTMLInputElement | null>;
  onFiles: (brought: Brought) => void;
  accept?: string;
  folder?: boolean;
}

/** A field for files that is pressed by a button elsewhere. */
function Files({ label, field, onFiles, accept, folder }: FilesProps) {
  return (
    <input
      ref={field}
      type="file"
      accept={accept}
      multiple
      hidden
      aria-label={label}
      {...(folder ? { webkitdirectory: "" } : {})}
      onChange={(event) => {
        onFiles(chosenFiles(event.target.files));
        event.target.value = "";
      }}
    />
  );
}

interface FootProps {
  words: string;
  sure: number;
  eyes: number;
  photos: Photo[];
  onAdd: () => void;
}

/** What is true of the photos, and the one thing that is done next. */
function Foot({ words, sure, eyes, photos, onAdd }: FootProps) {
  const queries = useQueryClient();
  const numbers = useChosen((state) => state.numbers);
  const counted = useCounted();
  const { reach, least } = useTaking();
  const chosen = numbers.size;
  const walk = async (only: ReadonlySet<number> | null) => {
    try {
      const wanted = await api.numbers(askedWords({ ...useAsked.getState(), stand: "eyes", by: "confidence", down: undefined }));
      useWalk.getState().begin(only ? wanted.filter((id) => only.has(id)) : wanted);
      goTo("/review");
    } catch (problem) {
      complain(problem);
    }
  };
  const looks = chosen ? (counted?.eyes ?? 0) : eyes;
  const next = ((): { words: string; run: () => void } => {
    if (chosen && counted && counted.sure > 0)
      return { words: `Take ${countOf(counted.sure, "sure proposal", "sure proposals")}`, run: () => void begin(queries, () => api.take([...numbers], reach, least)) };
    const [only] = numbers;
    if (chosen === 1 && only !== undefined) return { words: "Open the photo", run: () => goTo(`/photos/${only}`) };
    if (chosen) return { words: `Export ${said(chosen)}…`, run: () => openPanel("export") };
    if (sure > 0) return { words: `Choose ${sure === 1 ? "the sure one" : `the ${said(sure)} sure ones`}`, run: () => void chooseStanding("sure").catch(complain) };
    if (eyes > 0) return { words: `Look through ${said(eyes)}`, run: () => void walk(null) };
    return { words: "Add photos…", run: onAdd };
  })();
  return (
    <footer className="finding">
      <div role="status" className="finding-say" style={{ cursor: "default" }}>
        {chosen && counted ? countedWords(chosen, counted) : words}
        {chosen > 0 && counted && counted.sure > 0 && <span className="beside"> Originals are kept, and one undo takes it back.</span>}
      </div>
      {looks > 0 && !next.words.startsWith("Look") && (
        <Touch onClick={() => void walk(chosen ? numbers : null)}>Look through {said(looks)}</Touch>
      )}
      {chosen > 0 && !photos.length && <Touch onClick={() => choose([])}>None</Touch>}
      <button type="button" className="primary" data-primary onClick={next.run}>
        {next.words}
        <kbd aria-hidden="true">Enter</kbd>
      </button>
    </footer>
  );
}
