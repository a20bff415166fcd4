import type { Recipe } from "../api/client";
import type { Comparison, Desk, LayKind, StepName, Still } from "./model";
import { recipeNow, type Session } from "./session";

/** The kind of line that is laid next: where the lens is told only straight things are. */
export const layKindNow = (desk: Desk): LayKind => (tellsLens(desk) ? "straight" : desk.kind);

/** Whether lines are there for the lens alone: at its step, but where the picture is made wide. */
export const tellsLens = ({ step, lensPage }: Pick<Desk, "step" | "lensPage">): boolean => step === "lens" && lensPage === "distortion";

/** Whether lines are laid and moved on the stage now. */
export const laysLines = (desk: Pick<Desk, "step" | "byHand" | "lensPage">, recipe: Recipe | null): boolean =>
  tellsLens(desk) ? recipe?.lens.source === "straight" : desk.step === "lens" || (desk.step === "lines" && !desk.byHand);

/** Whether the frame is drawn out beyond the picture by hand. */
export const widens = ({ step, edgesPage }: Desk): boolean => step === "edges" && edgesPage === "widen";

/** Go to one of the five steps; what cannot be worked on as taken is shown corrected. */
export function goToStep({ desk }: Session, step: StepName) {
  const onlyCorrected = step === "frame" || step === "edges" || step === "export";
  desk.setState({ step, log: false, marking: false, ...(step !== "export" && { selected: null }), ...(onlyCorrected && { shown: "corrected" }) });
}

/** Light up a line, on the picture and in the field book. */
export function pointAt({ desk }: Session, id: string | null) {
  if (desk.getState().pointed !== id) desk.setState({ pointed: id });
}

/** Take a line away; one revision. */
export function deleteLine(session: Session, id: string) {
  if (!recipeNow(session.known.getState())?.references.some((one) => one.id === id)) return;
  session.desk.setState({ selected: null });
  void session.do({ do: "delete line", line: id });
}

/** Before and now, side by side, until something else is chosen. What is still on its way is kept first. */
export function startComparing(session: Session) {
  void session.keepPending();
  session.desk.setState({ comparison: { way: "side by side", left: "before", right: "now", flipped: false } });
}

export function changeComparison({ desk }: Session, change: (now: Comparison) => Comparison | null) {
  desk.setState(({ comparison }) => ({ comparison: comparison && change(comparison) }));
}

export const stopComparing = (session: Session) => changeComparison(session, () => null);

export const flip = (session: Session) => changeComparison(session, (now) => ({ ...now, flipped: !now.flipped }));

/** A still line by its letter: A, B, C… */
export const stillName = (at: number) => String.fromCharCode(65 + (at % 26));

/** Lay one more in the middle of the stage, a little beside the last. */
export function addStill({ desk }: Session, way: Still["way"]) {
  desk.setState(({ still }) => {
    const id = Math.max(0, ...still.map((one) => one.id)) + 1;
    const at = 0.5 + (still.filter((one) => one.way === way).length % 5) * 0.06;
    return { still: [...still, { id, way, at }] };
  });
}

export const removeStill = ({ desk }: Session, id: number) => desk.setState(({ still }) => ({ still: still.filter((one) => one.id !== id) }));

export function moveStill({ desk }: Session, id: number, at: number) {
  const clamped = Math.min(0.995, Math.max(0.005, at));
  desk.setState(({ still }) => ({ still: still.map((one) => (one.id === id ? { ...one, at: clamped } : one)) }));
}
