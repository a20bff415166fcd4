import type { RefObject } from "react";

import { goToStep } from "../session/desk";
import { suggestedNow, taking } from "../session/found";
import { STEP_NAMES, type StepName } from "../session/model";
import { recipeNow, type Session } from "../session/session";
import { useDesk, useKnown, useSession } from "../session/useSession";
import { useWriting } from "../steps/export/useWriting";

/** Where the work goes on from a step: corners that are not empty need no step of their own. */
function nextStep({ known }: Session, step: StepName): StepName {
  if (step === "lens") return "lines";
  if (step === "lines") return "frame";
  const frame = recipeNow(known.getState())?.frame;
  return step === "frame" && frame?.allow_empty ? "edges" : "export";
}

/** The one thing that is done next, at the end of the finding: on to the next step, and at the last the picture is written. */
export function Primary({ button }: { button: RefObject<HTMLButtonElement | null> }) {
  const session = useSession();
  const step = useDesk((desk) => desk.step);
  const ready = useKnown(({ bench }) => bench !== null);
  const next = useKnown(() => nextStep(session, step));
  const writing = useWriting();
  const writes = step === "export";
  const proposed = useDesk(suggestedNow);
  const press = () => {
    if (writes) void writing.write();
    else if (proposed) void session.do(taking(proposed));
    else goToStep(session, next);
  };
  return (
    <button
      ref={button}
      type="button"
      className="primary"
      data-primary
      disabled={!ready || (writes && writing.working)}
      onClick={press}
    >
      {writes ? writing.words : proposed ? "Take the proposal" : `Go on to ${STEP_NAMES[next]}`}
      <kbd aria-hidden="true">Enter</kbd>
    </button>
  );
}
