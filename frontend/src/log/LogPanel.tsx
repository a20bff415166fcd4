import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, useEffect, useLayoutEffect, useRef, useState } from "react";

import { api, type Photo, type Revision, type Version } from "../api/client";
import { useKnown, useSession } from "../session/useSession";
import { type Log, useLog, useVersions, versionsKey } from "../api/queries";
import { Touch } from "../parts/Touch";
import { TypedForm } from "../parts/TypedForm";
import { Refused } from "../parts/Refused";
import { useChange } from "../api/useChange";
import { Aside, Columns, Figure, Heading } from "../parts/Words";
import type { StepName } from "../session/model";
import type { Session } from "../session/session";

const RESETS: { part: StepName | "all"; label: string }[] = [
  { part: "lens", label: "Lens" },
  { part: "lines", label: "Lines" },
  { part: "frame", label: "Crop" },
  { part: "edges", label: "Edges" },
  { part: "export", label: "Export" },
  { part: "all", label: "All" },
];

/** Every state of the photo: those with a name, and one for each thing that was done. Nothing is ever dropped. */
export function LogPanel() {
  const { photo } = useSession();
  const version = useKnown(({ bench }) => bench?.photo.version);
  const session = useSession();
  const versions = useVersions(photo);
  const log = useLog(photo, version);
  const scrolled = useRef<HTMLDivElement>(null);
  return (
    <div ref={scrolled} data-log className="leaf">
      <Versions photo={photo} versions={versions} />
      <Heading beside={log.total === 1 ? "1 step" : `${log.total} steps`}>History</Heading>
      <Entries photo={photo} log={log} versions={versions} scrolled={scrolled} />
      <Heading beside="earlier states stay in the history">Reset</Heading>
      <Columns gridTemplateColumns="repeat(3, 1fr)" role="group" aria-label="Reset">
        {RESETS.map(({ part, label }) => {
          const action = part === "all" ? "Reset all steps" : `Reset ${label}`;
          return (
            <Touch key={part} aria-label={action} onClick={() => void session.reset(part)}>
              {label}
            </Touch>
          );
        })}
      </Columns>
    </div>
  );
}

const USUAL_HEIGHT = 76;

interface EntriesProps {
  photo: number;
  log: Log;
  versions: Version[];
  scrolled: React.RefObject<HTMLDivElement | null>;
}

/** The entries that are in sight, however many there are; those before are read on the way down. */
function Entries({ photo, log, versions, scrolled }: EntriesProps) {
  const { revisions, total, more } = log;
  const list = useRef<HTMLOListElement>(null);
  const current = useKnown(({ bench }) => bench?.photo.revision);
  // What stands above the list in the same box.
  const [above, setAbove] = useState(0);
  useLayoutEffect(() => setAbove(list.current?.offsetTop ?? 0), [versions.length]);
  // It changes with every scroll, so what it gives cannot be kept from one drawing to the next.
  // eslint-disable-next-line react-hooks/incompatible-library
  const window = useVirtualizer({
    count: total,
    getScrollElement: () => scrolled.current,
    estimateSize: () => USUAL_HEIGHT,
    getItemKey: (at) => total - at,
    scrollMargin: above,
    overscan: 4,
  });
  const shown = window.getVirtualItems();
  const last = shown[shown.length - 1]?.index ?? 0;
  useEffect(() => {
    if (last >= revisions.length - 1) more();
  }, [last, revisions.length, more]);
  return (
    <ol ref={list} style={{ ...{ height: window.getTotalSize() }, margin: 0, padding: 0, position: "relative", borderTop: "1px solid", borderColor: "var(--chakra-colors-rule)" }}>
      {shown.map(({ index, start, key }) => {
        const revision = revisions[index];
        return (
          <li
            key={key}
            ref={window.measureElement}
            data-index={index}
            aria-current={revision?.id === current ? "true" : undefined}
            aria-setsize={total}
            aria-posinset={index + 1}
            style={{ position: "absolute", insetInline: 0, top: 0, minHeight: USUAL_HEIGHT, listStyleType: "none", transform: `translateY(${start - above}px)` }}
          >
            {revision ? <Entry photo={photo} revision={revision} current={revision.id === current} versions={versions} /> : <Aside>Loading…</Aside>}
          </li>
        );
      })}
    </ol>
  );
}

const small = { px: "6px", fontSize: "0.8125rem" };

/** Look at a state on the stage, flicked against what is true now; nothing is left. */
function look(session: Session, revision: number) {
  void session.keepPending();
  session.desk.setState({ comparison: { way: "flick", left: revision, right: "now", flipped: true } });
}

const TIME = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });

function SmallPicture({ photo, revision }: { photo: number; revision: number }) {
  return (
    <div className="row" style={{ width: 72, height: 56, flex: "none", alignItems: "center", justifyContent: "center", background: "var(--chakra-colors-surround)" }}>
      <img
        src={`/api/photos/${photo}/thumbnail/${revision}.jpg`}
        alt=""
        loading="lazy"
        style={{ maxWidth: 68, maxHeight: 52, display: "block" }}
      />
    </div>
  );
}

interface EntryProps {
  photo: number;
  revision: Revision;
  current: boolean;
  versions: Version[];
}

const Entry = memo(function Entry({ photo, revision, current, versions }: EntryProps) {
  const session = useSession();
  const { number } = revision;
  const names = versions.filter((one) => one.revision === revision.id).map(({ name }) => name);
  return (
    <div className="row" style={{ gap: 8, paddingBlock: 6, borderBottom: "1px solid", borderColor: "var(--chakra-colors-rule)", background: current ? "var(--chakra-colors-touch)" : undefined }}>
      <SmallPicture photo={photo} revision={revision.id} />
      <div style={{ flex: "1", minWidth: 0 }}>
        <div style={{ lineHeight: 1.25, overflowWrap: "anywhere" }}>
          <Figure>{number}</Figure> {revision.action}
          {names.length > 0 && <strong> · {names.join(", ")}</strong>}
        </div>
        <div className="row" style={{ alignItems: "center", justifyContent: "space-between", gap: 6, flexWrap: "wrap" }}>
          <div style={{ color: "var(--chakra-colors-second)", fontSize: "0.75rem" }}>
            {current ? "Current" : TIME.format(new Date(revision.at))}
          </div>
          {!current && (
            <div className="row" style={{ gap: 6 }}>
              <Touch {...small} aria-label={`View ${number}, ${revision.action}`} onClick={() => look(session, revision.id)}>
                View
              </Touch>
              <Touch {...small} aria-label={`Go back to ${number}, ${revision.action}`} onClick={() => void session.returnTo(revision.id)}>
                Go back
              </Touch>
            </div>
          )}
        </div>
      </div>
    </div>
  );
});

/** Named states beside each other: kept, looked at, returned to, brought up to now, removed. */
function Versions({ photo, versions }: { photo: number; versions: Version[] }) {
  const session = useSession();
  const { change, refused } = useChange(versionsKey(photo));
  const [removed, setRemoved] = useState<Version | null>(null);
  const now = useKnown((state) => state.bench?.photo.revision);
  // What is true now is what the page shows: what is still on its way is kept first.
  const settled = (work: (photo: Photo) => Promise<{ version: number }>) => change(() => session.changeBeside(work));
  const keepAs = async (name: string) => name && (await settled((of) => api.keepVersion(of, name))) && "used up";
  return (
    <>
      <Heading first beside={versions.length ? "" : "none yet"}>
        Versions
      </Heading>
      <TypedForm label="Name for the current state" placeholder="e.g. Square for the wall" take="Save as version" most={80} needed onTake={keepAs} />
      <Refused words={refused} />
      {removed && (
        <div className="row" role="status" style={{ marginTop: 6, justifyContent: "space-between", alignItems: "center", gap: 8, fontSize: "0.8125rem" }}>
          <span>Removed “{removed.name}”.</span>
          <Touch {...small} aria-label={`Undo removing ${removed.name}`} onClick={() => void settled((of) => api.restoreVersion(of, removed.id)).then((done) => done && setRemoved(null))}>
            Undo
          </Touch>
        </div>
      )}
      <ul style={{ margin: 0, padding: 0, marginTop: 6 }}>
        {versions.map((one) => (
          <li key={one.id} data-version={one.name} style={{ listStyleType: "none", paddingBlock: 6, borderBottom: "1px solid", borderColor: "var(--chakra-colors-rule)" }}>
            <div className="row" style={{ gap: 8 }}>
              <SmallPicture photo={photo} revision={one.revision} />
              <div style={{ minWidth: 0 }}>
                <div style={{ fontWeight: 700, overflowWrap: "anywhere", lineHeight: 1.25 }}>
                  {one.name}
                </div>
                <div style={{ fontSize: "0.75rem", color: "var(--chakra-colors-second)" }}>
                  {one.ratio}, {one.width} × {one.height} px{one.revision === now ? ", current" : ""}
                </div>
              </div>
            </div>
            <Columns mt="6px" gridTemplateColumns="repeat(4, auto)">
              <Touch aria-label={`View ${one.name}`} onClick={() => look(session, one.revision)}>
                View
              </Touch>
              <Touch aria-label={`Go back to ${one.name}`} disabled={one.revision === now} onClick={() => void session.returnTo(one.revision)}>
                Go back
              </Touch>
              <Touch aria-label={`Update ${one.name} to the current state`} disabled={one.revision === now} onClick={() => void settled((of) => api.bringUp(of, one.id))}>
                Update
              </Touch>
              <Touch
                aria-label={`Remove ${one.name}`}
                onClick={() => void settled((of) => api.removeVersion(of, one.id)).then((done) => done && setRemoved(one))}
              >
                Remove
              </Touch>
            </Columns>
          </li>
        ))}
      </ul>
      {!versions.length && <Aside>A version saves the current state under a name, for example one crop for the wall and one for the page.</Aside>}
    </>
  );
}
