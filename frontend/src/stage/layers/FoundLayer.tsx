import { toCorrected } from "../../session/mesh";
import { useDesk } from "../../session/useSession";
import { useScene } from "../useStage";
import { toStage } from "../view/view";
import { OVER } from "./shapes";
import { pictureColour } from "./signs";

const CASING = "rgba(20,22,26,.6)";
const DASHES = "7 5";

/** Lines that were found and not taken: thin and dashed, in the colour of their kind. */
export function FoundLayer() {
  const lines = useDesk((desk) => desk.found?.lines);
  const pointed = useDesk((desk) => desk.pointed);
  const before = useDesk((desk) => desk.shown === "before");
  const { mesh, view, size } = useScene((scene) => scene);
  if (!lines || !mesh || before) return null;
  return (
    <svg aria-hidden="true" data-found style={OVER}>
      {lines.map(({ id, kind, points }) => {
        const path = `M${points.map((point) => toStage(view, size, toCorrected(mesh, point)).join(" ")).join("L")}`;
        const lit = id === pointed;
        return (
          <g key={id} fill="none" data-lit={lit || undefined}>
            <path d={path} stroke={CASING} strokeWidth={lit ? 7 : 3.4} />
            <path d={path} stroke={pictureColour(kind)} strokeWidth={lit ? 3.2 : 1.6} strokeDasharray={lit ? undefined : DASHES} />
          </g>
        );
      })}
    </svg>
  );
}
