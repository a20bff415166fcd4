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
  { key: "3", name: "step Crop", run: step("frame") },
  { key: "4", name: "step Edges", run: step("edges") },
  { key: "5", name: "step Export", run: step("export") },
  { key: "q", name: "contact sheet", run: () => goTo("/") },
  { key: "y", name: "history, and back", run: toggleLog },
  { key: "e", name: "draw a line, horizontal or vertical", run: lay("slope") },
  { key: "h", name: "draw a horizontal", run: lay("level") },
  { key: "v", name: "draw a vertical", run: lay("plumb") },
  { key: "r", name: "draw a receding line", run: lay("receding") },
  { key: "s", name: "draw along a straight edge", run: lay("straight") },
  { key: "c", name: "draw a rectangle, corner by corner", run: lay("rectangle") },
  { key: "k", name: "draw a check line", run: lay("witness") },
  { key: "n", name: "snap to edges on or off", run: () => usePreferences.setState(({ snap }) => ({ snap: !snap })) },
  { key: "a", name: "adjust by hand / back to lines", run: ({ desk }) => desk.setState(({ byHand }) => ({ byHand: !byHand, step: "lines" })) },
  { key: "l", name: "add a level guide", run: (session) => addStill(session, "level") },
  { key: "u", name: "add a vertical guide", run: (session) => addStill(session, "upright") },
  { key: "g", name: "grid", run: ({ desk }) => turnGrid(desk.getState().step) },
  { key: "m", name: "magnifier", run: () => usePreferences.setState(({ magnifier }) => ({ magnifier: !magnifier })) },
  {
    key: "t",
    name: "as taken / corrected",
    run: ({ desk }) => desk.setState(({ shown }) => ({ shown: shown === "taken" ? "corrected" : "taken" })),
  },
  { key: "b", name: "before / corrected", run: before },
  { key: "o", name: "compare / close the comparison", run: (session) => (session.desk.getState().comparison ? stopComparing(session) : startComparing(session)) },
  { key: "f", name: "fit the frame to the window", run: () => activeView()?.fit() },
  { key: "w", name: "fit the whole picture", run: () => activeView()?.whole() },
  { key: "p", name: "100%", run: () => activeView()?.zoomTo(1) },
  { key: "P", name: "200%", run: () => activeView()?.zoomTo(2) },
  { key: "+", name: "zoom in", run: () => activeView()?.zoomBy(1.25) },
  { key: "-", name: "zoom out", run: () => activeView()?.zoomBy(0.8) },
];

/** Keys that are no letters: they work whether single letters are switched on or not. */
export const ALWAYS: [key: string, name: string][] = [
  ["Ctrl Z", "undo"],
  ["Ctrl Y", "redo"],
  ["PgUp PgDn", "previous and next photo"],
  ["Delete", "delete the selected line"],
  ["Enter", "go on, as the dark button at the foot says"],
  ["Enter ", "on the picture: draw a line with the keyboard, point by point"],
  ["arrows", "move the selected thing by 1 px (Alt 0.1, Shift 10, Ctrl 100)"],
  ["Home End", "while you draw with the keyboard: to the left and right edge; PgUp PgDn: to the top and bottom"],
  ["Esc", "cancel what you are doing, close what is open"],
  ["?", "this list"],
];

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.matches("input, textarea, select") || target.isContentEditable);

/** Whether a key belongs to what has the focus: a control, or the picture, on which Enter draws. */
const onControl = (target: EventTarget | null) => target instanceof HTMLElement && target.closest("button, a, [role=slider], [role=application]") !== null;

interface Places {
  /** Go to the photo before (−1) or after (1) this one. */
  neighbour: (by: 1 | -1) => void;
  /** Show the list of keys, or put it away. */
  toggleKeys: () => void;
  /** Do the one thing that is done next. */
  primary: () => void;
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
  if (event.key === "Enter" && !onControl(event.target)) {
    places.primary();
    return true;
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
