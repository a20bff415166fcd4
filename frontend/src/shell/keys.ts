import { useEffect } from "react";

import { goTo } from "../parts/path";
import { addStill, deleteLine, flip, goToStep, startComparing, stopComparing } from "../session/desk";
import type { LayKind, StepName } from "../session/model";
import { turnGrid, usePreferences } from "../session/preferences";
import type { Session } from "../session/session";
import { activeView } from "../stage/view/active";

interface Key {
  key: string;
  name: string;
  run: (session: Session) => void;
}

const lay = (kind: LayKind) => ({ desk }: Session) => desk.setState({ kind, step: "lines", byHand: false });
const step = (name: StepName) => (session: Session) => goToStep(session, name);
const toggleLog = ({ desk }: Session) => desk.setState(({ log }) => ({ log: !log, marking: false }));

function before(session: Session) {
  if (session.desk.getState().comparison) return flip(session);
  session.desk.setState(({ shown }) => ({ shown: shown === "before" ? "corrected" : "before" }));
}

/** The letters come from our own words; the list under "?" is made from this table. */
export const KEYS: Key[] = [
  { key: "1", name: "step Lens", run: step("lens") },
  { key: "2", name: "step Lines", run: step("lines") },
  { key: "3", name: "step Frame", run: step("frame") },
  { key: "4", name: "step Edges", run: step("edges") },
  { key: "5", name: "step Export", run: step("export") },
  { key: "q", name: "contact sheet", run: () => goTo("/") },
  { key: "y", name: "log, and back", run: toggleLog },
  { key: "e", name: "lay either way, by its slope", run: lay("slope") },
  { key: "h", name: "lay a level line", run: lay("level") },
  { key: "v", name: "lay a plumb line", run: lay("plumb") },
  { key: "r", name: "lay a receding line", run: lay("receding") },
  { key: "s", name: "lay along something straight", run: lay("straight") },
  { key: "c", name: "lay a rectangle, corner by corner", run: lay("rectangle") },
  { key: "k", name: "lay a witness", run: lay("witness") },
  { key: "n", name: "snap to the real edge, or not", run: () => usePreferences.setState(({ snap }) => ({ snap: !snap })) },
  { key: "a", name: "level by hand, and back to lines", run: ({ desk }) => desk.setState(({ byHand }) => ({ byHand: !byHand, step: "lines" })) },
  { key: "l", name: "a still line, level", run: (session) => addStill(session, "level") },
  { key: "u", name: "a still line, upright", run: (session) => addStill(session, "upright") },
  { key: "g", name: "grid", run: ({ desk }) => turnGrid(desk.getState().step) },
  { key: "m", name: "magnifier", run: () => usePreferences.setState(({ magnifier }) => ({ magnifier: !magnifier })) },
  {
    key: "t",
    name: "as taken, and back to as corrected",
    run: ({ desk }) => desk.setState(({ shown }) => ({ shown: shown === "taken" ? "corrected" : "taken" })),
  },
  { key: "b", name: "flick to before, and back", run: before },
  { key: "o", name: "compare side by side, and back", run: (session) => (session.desk.getState().comparison ? stopComparing(session) : startComparing(session)) },
  { key: "f", name: "fit the picture to the stage", run: () => activeView()?.fit() },
  { key: "p", name: "100 %", run: () => activeView()?.zoomTo(1) },
  { key: "P", name: "200 %", run: () => activeView()?.zoomTo(2) },
  { key: "+", name: "closer", run: () => activeView()?.zoomBy(1.25) },
  { key: "-", name: "farther", run: () => activeView()?.zoomBy(0.8) },
];

/** Keys that are no letters: they work whether single letters are switched on or not. */
export const ALWAYS: [key: string, name: string][] = [
  ["Ctrl Z", "undo"],
  ["Ctrl Y", "redo"],
  ["PgUp PgDn", "previous and next photo"],
  ["Delete", "delete the chosen line"],
  ["Enter", "on the stage: lay a line by keys, point after point"],
  ["arrows", "move what is chosen by 1 px; Alt 0.1, Shift 10, Ctrl 100"],
  ["Home End", "while a line is laid by keys: to the left and right side; PgUp PgDn: to the top and foot"],
  ["Esc", "let go of what is held, close what is open"],
  ["?", "this list"],
];

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.matches("input, textarea, select") || target.isContentEditable);

interface Places {
  /** Go to the photo before (−1) or after (1) this one. */
  neighbour: (by: 1 | -1) => void;
  /** Show the list of keys, or put it away. */
  toggleKeys: () => void;
  /** Close the uppermost thing that is open; whether there was one. */
  close: () => boolean;
}

function runKey(event: KeyboardEvent, session: Session, places: Places): boolean {
  if (event.ctrlKey || event.metaKey) {
    const way = { z: event.shiftKey ? "redo" : "undo", y: "redo" }[event.key.toLowerCase()] as "undo" | "redo" | undefined;
    if (way) void session.step(way);
    return way !== undefined;
  }
  if (event.altKey) return false;
  if (event.key === "Escape") return places.close();
  if (event.key === "PageUp" || event.key === "PageDown") {
    places.neighbour(event.key === "PageUp" ? -1 : 1);
    return true;
  }
  if (event.key === "Delete" || event.key === "Backspace") {
    const { selected } = session.desk.getState();
    if (selected) deleteLine(session, selected);
    return selected !== null;
  }
  if (event.key === "?") {
    places.toggleKeys();
    return true;
  }
  // A capital letter is meant only where Shift is held.
  const pressed = event.shiftKey ? event.key : event.key.toLowerCase();
  const found = usePreferences.getState().shortcuts ? KEYS.find(({ key }) => key === pressed) : undefined;
  found?.run(session);
  return found !== undefined;
}

/** Undo and redo always; the letters while they are switched on and nothing is being typed. */
export function useKeys(session: Session, places: Places) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!typing(event.target) && runKey(event, session, places)) event.preventDefault();
    };
    document.addEventListener("keydown", onKey);
    return () => document.removeEventListener("keydown", onKey);
  }, [session, places]);
}
