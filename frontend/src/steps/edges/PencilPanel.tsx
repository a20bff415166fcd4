import type { Recipe } from "../../api/client";
import { LIMITS } from "../../api/limits";
import { usePreferences } from "../../session/preferences";
import { useDesk, useSession } from "../../session/useSession";
import { usualBrush, usualFeather } from "../../stage/tools/pencilTool";
import { NumberField } from "../../parts/NumberField";
import { Touch } from "../../parts/Touch";
import { Columns } from "../../parts/Words";

/** How areas are drawn: brushed or around, and how wide. */
export function PencilPanel({ recipe, feathered }: { recipe: Recipe; feathered: boolean }) {
  const session = useSession();
  const around = usePreferences((state) => state.around);
  const brush = useDesk((state) => state.brush);
  const feather = useDesk((state) => state.feather);
  // Escape puts the pencil down; choosing a way to draw takes it up again.
  const draw = (round: boolean) => {
    usePreferences.setState({ around: round });
    session.desk.setState(({ drawing, edgesPage }) => ({ drawing: drawing ?? (edgesPage === "touch up" ? "touch-up" : null) }));
  };
  const longer = Math.max(recipe.photo.width, recipe.photo.height);
  return (
    <>
      <Columns gridTemplateColumns="repeat(2, 1fr)" role="group" aria-label="How an area is drawn">
        <Touch aria-pressed={!around} onClick={() => draw(false)}>
          Brush
        </Touch>
        <Touch aria-pressed={around} onClick={() => draw(true)}>
          Outline
        </Touch>
      </Columns>
      {!around && <NumberField label="Brush width" unit="px" least={2} most={2000} value={2 * (brush ?? usualBrush(longer))} onAccept={(wide) => session.desk.setState({ brush: wide / 2 })} />}
      {feathered && <NumberField label="Feather" unit="px" least={LIMITS["draw.feather"][0]} most={LIMITS["draw.feather"][1]} value={feather ?? usualFeather(longer)} onAccept={(by) => session.desk.setState({ feather: by })} />}
    </>
  );
}
