import { FORMATS } from "../api/limits";
import { memo, useCallback, useState } from "react";

import { Mark } from "../parts/Brand";
import type { Place } from "../api/client";
import { useProfiles } from "../api/queries";
import { useWalk } from "../api/walk";
import { Go } from "../parts/Go";
import { goTo } from "../parts/path";
import { goToStep } from "../session/desk";
import { STEP_NAMES, type StepName } from "../session/model";
import { Touch } from "../parts/Touch";
import { type Known, readNow } from "../session/session";
import { Live } from "../stage/Live";
import { useDesk, useKnown, useSession } from "../session/useSession";

/** The photo, the five steps on one line that one walks along, each with a true word on its state, and what is done to all. */
export const Route = memo(function Route({ onKeys, neighbours }: { onKeys: () => void; neighbours: Place }) {
  const session = useSession();
  const canUndo = useKnown((state) => state.bench?.can_undo ?? false);
  const canRedo = useKnown((state) => state.bench?.can_redo ?? false);
  const lens = useLensWords();
  const walking = useWalk(({ photos, at, done }) => photos[at] === session.photo && done[session.photo] === "adjusted");
  return (
    <header className="route">
      <div className="route-title">
        <Mark />
        <div style={{ minWidth: 0 }}>
          <Title />
          <nav aria-label="Photos">
            <Go to={walking ? "/review" : "/"}>{walking ? "Review" : "Contact sheet"}</Go>
            <span className="beside" style={{ fontSize: "0.75rem" }}>
              {neighbours.total ? `${neighbours.place} of ${neighbours.total}` : ""}
            </span>
            <button type="button" disabled={neighbours.before === null} aria-label="Previous photo" onClick={() => goTo(`/photos/${neighbours.before}`)}>
              previous
            </button>
            <button type="button" disabled={neighbours.after === null} aria-label="Next photo" onClick={() => goTo(`/photos/${neighbours.after}`)}>
              next
            </button>
          </nav>
        </div>
      </div>
      <nav aria-label="Steps" className="traverse">
        <StepMark name="lens" words={lens} />
        <StepMark name="lines" words={ROUTE_WORDS.lines} />
        <StepMark name="frame" words={ROUTE_WORDS.frame} />
        <StepMark name="edges" words={ROUTE_WORDS.edges} />
        <StepMark name="export" words={ROUTE_WORDS.export} />
      </nav>
      <div className="route-tools">
        <Touch disabled={!canUndo} onClick={() => void session.step("undo")}>
          Undo
        </Touch>
        <Touch disabled={!canRedo} onClick={() => void session.step("redo")}>
          Redo
        </Touch>
        <LogMark />
        <Touch onClick={onKeys}>Shortcuts</Touch>
      </div>
    </header>
  );
});

/** The photo's title; pressing it, it can be typed anew. */
function Title() {
  const session = useSession();
  const title = useKnown((state) => state.bench?.photo.title ?? "");
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    const wanted = typed?.trim();
    setTyped(null);
    if (wanted && wanted !== title) void session.rename(wanted);
  };
  if (typed === null)
    return (
      <button type="button" className="title-button" aria-label={`Title: ${title}`} title="Press to change the title" onClick={() => setTyped(title)}>
        <strong className="cut">{title || "\u00a0"}</strong>
      </button>
    );
  return (
    <input
      className="words"
      aria-label="Title"
      autoFocus
      maxLength={200}
      value={typed}
      style={{ height: "1.75rem" }}
      onFocus={(event) => event.target.select()}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === "Enter") keep();
        else if (event.key === "Escape") setTyped(null);
        else return;
        event.stopPropagation();
      }}
    />
  );
}

/** The word on the lens; that no profile was found is only told where nothing else takes the bending out. */
function useLensWords(): (known: Known) => string | undefined {
  const { data } = useProfiles(useSession().photo, "");
  const reason = data?.reason;
  return useCallback(
    (known) => (readNow(known)?.lens.source === "none" && reason ? "no lens profile found" : readNow(known)?.route.lens),
    [reason],
  );
}

/** One step: its name, and a true word on its state. */
const StepMark = memo(function StepMark({ name, words }: { name: StepName; words: (known: Known) => string | undefined }) {
  const session = useSession();
  const here = useDesk((desk) => desk.step === name);
  return (
    <button type="button" className="step" aria-current={here ? "step" : undefined} onClick={() => goToStep(session, name)}>
      <span className="step-name">{STEP_NAMES[name]}</span>
      <Live className="step-word" titled of={words} />
    </button>
  );
});

function LogMark() {
  const { desk } = useSession();
  const open = useDesk(({ log }) => log);
  return (
    <Touch aria-expanded={open} onClick={() => desk.setState({ log: !open, marking: false })}>
      History
    </Touch>
  );
}

const ROUTE_WORDS = {
  lines: (known: Known) => readNow(known)?.route.lines,
  frame: (known: Known) => readNow(known)?.route.frame,
  edges: (known: Known) => readNow(known)?.route.edges,
  export: ({ bench }: Known) => (bench ? FORMATS[bench.recipe.export.format].called : undefined),
};
