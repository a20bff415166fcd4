import { useEffect } from "react";

import { baseNow } from "../../session/session";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { useFirstTakes } from "../../stage/takes/useTakes";
import { Touch } from "../../parts/Touch";
import { CornersPage } from "./CornersPage";
import { DonorsPage } from "./DonorsPage";
import { TouchUpPage } from "./TouchUpPage";
import { WidenPage } from "./WidenPage";
import type { EdgesPage } from "../../session/model";

const PAGES: { page: EdgesPage; label: string }[] = [
  { page: "corners", label: "Corners" },
  { page: "widen", label: "Extend" },
  { page: "touch up", label: "Touch up" },
  { page: "donors", label: "Sources" },
];

/** What the step Edges needs, on four pages: the empty corners, more room, single areas, where new pixels come from. */
export function EdgesStep() {
  const session = useSession();
  const recipe = useKnown(baseNow);
  const read = useKnown(({ seen }) => seen);
  const page = useDesk((state) => state.edgesPage);
  useEffect(() => {
    session.desk.setState({ drawing: page === "touch up" ? "touch-up" : null });
    return () => session.desk.setState({ drawing: null });
  }, [session, page]);
  useFirstTakes(recipe);
  if (!recipe || !read) return null;
  return (
    <>
      <div className="row" role="group" aria-label="Pages of the step Edges" style={{ margin: "2px 16px 0", flex: "none" }}>
        {PAGES.map((one) => (
          <Touch
            key={one.page}
            flex="1"
            px="2px"
            fontSize="0.8125rem"
            aria-pressed={page === one.page}
            onClick={() => session.desk.setState({ edgesPage: one.page })}
          >
            {one.label}
          </Touch>
        ))}
      </div>
      <div data-edges={recipe.edges.mode} data-edges-page={page} className="leaf">
        {page === "corners" && <CornersPage recipe={recipe} read={read} />}
        {page === "widen" && <WidenPage recipe={recipe} read={read} />}
        {page === "touch up" && <TouchUpPage recipe={recipe} read={read} />}
        {page === "donors" && <DonorsPage recipe={recipe} />}
      </div>
    </>
  );
}
