import type { Recipe } from "../../api/client";
import { useBench } from "../../session/benchStore";
import { usualBrush, usualFeather } from "../../stage/tools/usePencil";
import { NumberField } from "../../parts/NumberField";
import { Touch } from "../../parts/Touch";
import { Columns } from "../../parts/Words";

/** How areas are drawn: brushed or around, and how wide. */
export function PencilPanel({ recipe, feathered }: { recipe: Recipe; feathered: boolean }) {
  const around = useBench((state) => state.around);
  const brush = useBench((state) => state.brush);
  const feather = useBench((state) => state.feather);
  // Escape puts the pencil down; choosing a way to draw takes it up again.
  const draw = (round: boolean) =>
    useBench.setState(({ drawing, edgesPage }) => ({ around: round, drawing: drawing ?? (edgesPage === "touch up" ? "touch-up" : null) }));
  const longer = Math.max(recipe.photo.width, recipe.photo.height);
  return (
    <>
      <Columns gridTemplateColumns="repeat(2, 1fr)" role="group" aria-label="How an area is drawn">
        <Touch aria-pressed={!around} onClick={() => draw(false)}>
          Brush over
        </Touch>
        <Touch aria-pressed={around} onClick={() => draw(true)}>
          Draw around
        </Touch>
      </Columns>
      {!around && <NumberField label="Brush" unit="px" least={2} most={2000} value={2 * (brush ?? usualBrush(longer))} onAccept={(wide) => useBench.setState({ brush: wide / 2 })} />}
      {feathered && <NumberField label="Soft edge" unit="px" least={0} most={500} value={feather ?? usualFeather(longer)} onAccept={(by) => useBench.setState({ feather: by })} />}
    </>
  );
}
