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
      <div className="row" role="group" aria-label="Pages of the step Crop" style={{ paddingInline: 16, paddingBlock: 8, gap: "0", borderBottom: "1px solid", borderColor: "var(--chakra-colors-rule)", flex: "none" }}>
        {PAGES.map((one, at) => (
          <Touch
            key={one.page}
            flex="1"
            borderRadius={at === 0 ? "4px 0 0 4px" : at === PAGES.length - 1 ? "0 4px 4px 0" : 0}
            borderLeftWidth={at === 0 ? "1px" : 0}
            aria-pressed={page === one.page}
            onClick={() => session.desk.setState({ framePage: one.page, marking: false })}
          >
            {one.label}
          </Touch>
        ))}
      </div>
      <div data-frame-page={page} style={{ paddingInline: 16, paddingBlock: 12, overflowY: "auto", flex: "1", minHeight: 0 }}>
        {page === "shape" && <ShapePage recipe={recipe} read={read} />}
        {page === "compose" && <ComposePage recipe={recipe} read={read} />}
        {page === "print" && <PrintPage recipe={recipe} read={read} />}
      </div>
    </>
  );
}
