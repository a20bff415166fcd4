"""The frame: what can be done to it, what each way costs, the usual shapes and one's own."""

from __future__ import annotations

import math

from apiflask import APIBlueprint

from sequor.actions.frame import written
from sequor.advice.framing_options import cost_rows
from sequor.core.frame.composition import golden_spiral
from sequor.core.frame.print import MM_PER
from sequor.operations import ratios
from sequor.recipe.model.frame import LONGEST_MM
from sequor.recipe.shapes import USUAL_PAPERS, USUAL_RATIOS
from sequor.web.context import context
from sequor.web.frames.schemas import (
    CostRowOut,
    CostsIn,
    CostsOut,
    OwnRatioIn,
    OwnRatioOut,
    OwnRatiosOut,
    ShapesOut,
    UsualPaper,
    UsualRatio,
    UsualUnit,
)
from sequor.wording.frame import paper_words

frames = APIBlueprint("frames", __name__, url_prefix="/api", tag="Frame")


@frames.post("/costs")
@frames.input(CostsIn)
@frames.output(CostsOut)
def costs(json_data: CostsIn) -> CostsOut:
    """What each way of framing costs."""
    return CostsOut(rows=[CostRowOut.model_validate(row) for row in cost_rows(json_data.recipe)])


@frames.get("/shapes")
@frames.output(ShapesOut)
def shapes() -> ShapesOut:
    """The usual ratios and papers, and the golden spiral."""
    return ShapesOut(
        ratios=[UsualRatio(ratio=ratio, label=label) for ratio, label in USUAL_RATIOS],
        papers=[UsualPaper(paper=one.paper, unit=one.unit, label=paper_words(one)) for one in USUAL_PAPERS],
        units=[UsualUnit(unit=unit, longest=math.floor(LONGEST_MM / mm)) for unit, mm in MM_PER.items()],
        spiral=[(float(x), float(y)) for x, y in golden_spiral()],
    )


@frames.get("/ratios")
@frames.output(OwnRatiosOut)
def own_ratios() -> OwnRatiosOut:
    """The ratios that were kept under a name."""
    kept = ratios.list_ratios(context().store)
    return OwnRatiosOut(ratios=[OwnRatioOut.model_validate(one) for one in kept])


@frames.post("/ratios")
@frames.input(OwnRatioIn)
@frames.output(OwnRatioOut, status_code=201)
def keep_ratio(json_data: OwnRatioIn) -> OwnRatioOut:
    """Keep a ratio under a name."""
    kept = ratios.keep_ratio(context().store, json_data.name.strip(), written(json_data.ratio))
    return OwnRatioOut.model_validate(kept)


@frames.delete("/ratios/<int:ratio_id>")
@frames.output({}, status_code=204)
def remove_ratio(ratio_id: int) -> str:
    """Forget a ratio."""
    ratios.remove_ratio(context().store, ratio_id)
    return ""
