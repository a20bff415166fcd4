import { baseNow } from "../../session/session";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { Touch } from "../../parts/Touch";
import { ComposePage } from "./ComposePage";
import { PrintPage } from "./PrintPage";
import { ShapePage } from "./ShapePage";
import type { FramePage } from "../../session/model";

const PAGES: { page: FramePage; label: string }[] = [
  { page: "shape", label: "Shape" },
  { page: "compose", label: "Compose" },
  { page: "print", label: "Print" },
];

/** What the step Frame needs, on three pages: its shape and cost, its composition, its print. */
export function FrameStep() {
  const session = useSession();
  // While something is dragged the pages stay as they are: what has to follow the hand is written live.
  const recipe = useKnown(baseNow);
  const read = useKnown(({ seen }) => seen);
  const page = useDesk((state) => state.framePage);
  if (!recipe || !read) return null;
  return (
    <>
      <div className="row" role="group" aria-label="Pages of the step Crop" style={{ margin: "2px 16px 0", flex: "none" }}>
        {PAGES.map((one) => (
          <Touch
            key={one.page}
            flex="1"
            aria-pressed={page === one.page}
            onClick={() => session.desk.setState({ framePage: one.page, marking: false })}
          >
            {one.label}
          </Touch>
        ))}
      </div>
      <div data-frame-page={page} className="leaf">
        {page === "shape" && <ShapePage recipe={recipe} read={read} />}
        {page === "compose" && <ComposePage recipe={recipe} read={read} />}
        {page === "print" && <PrintPage recipe={recipe} read={read} />}
      </div>
    </>
  );
}
