import { toCorrected } from "../../session/mesh";
import { useDesk } from "../../session/useSession";
import { useScene } from "../useStage";
import { toStage } from "../view/view";
import { OVER } from "./shapes";
import { pictureColour } from "./signs";

const CASING = "rgba(20,22,26,.6)";
const DASHES = "7 5";

/** Lines that were found and not taken: thin and dashed, in the colour of their kind, the wider the more they say. */
export function FoundLayer() {
  const found = useDesk((desk) => desk.found);
  const pointed = useDesk((desk) => desk.pointed);
  const before = useDesk((desk) => desk.shown === "before");
  const { mesh, view, size } = useScene((scene) => scene);
  if (!found || !mesh || before) return null;
  const most = Math.max(...Object.values(found.shares));
  return (
    <svg aria-hidden="true" data-found style={OVER}>
      {found.lines.map(({ id, kind, points }) => {
        const path = `M${points.map((point) => toStage(view, size, toCorrected(mesh, point)).join(" ")).join("L")}`;
        const lit = id === pointed;
        const width = 1.2 + (1.2 * (found.shares[id] ?? 0)) / most;
        return (
          <g key={id} fill="none" data-lit={lit || undefined}>
            <path d={path} stroke={CASING} strokeWidth={lit ? 7 : width + 1.8} />
            <path d={path} stroke={pictureColour(kind)} strokeWidth={lit ? 3.2 : width} strokeDasharray={lit ? undefined : DASHES} />
          </g>
        );
      })}
    </svg>
  );
}
