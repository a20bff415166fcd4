"""The frame: what can be done to it, what each way costs, the usual shapes and one's own."""

from __future__ import annotations

from apiflask import APIBlueprint

from sequor.advice import edges, frame_actions
from sequor.advice.frame_actions import Framed
from sequor.advice.framing_options import cost_rows
from sequor.core.frame.composition import SHARES, golden_spiral
from sequor.core.frame.ratio import typed_ratio
from sequor.operations import ratios
from sequor.recipe.model import Recipe
from sequor.recipe.shapes import USUAL_PAPERS, USUAL_RATIOS
from sequor.web.context import context
from sequor.web.frames.schemas import (
    AskEdges,
    AskEmpty,
    AskPlace,
    AskRatio,
    AskWiden,
    CostRowOut,
    CostsIn,
    CostsOut,
    FramedOut,
    FrameIn,
    LineFamily,
    OwnRatioIn,
    OwnRatioOut,
    OwnRatiosOut,
    ShapesOut,
    UsualPaper,
    UsualRatio,
)
from sequor.web.problems import Problem
from sequor.wording.frame import paper_words

frames = APIBlueprint("frames", __name__, url_prefix="/api", tag="Frame")

SIMPLE = {
    "swap": frame_actions.swapped,
    "around": frame_actions.around_subject,
    "centre": frame_actions.centred,
    "paper": frame_actions.paper_shape,
}


@frames.post("/frame")
@frames.input(FrameIn)
@frames.output(FramedOut)
def frame(json_data: FrameIn) -> FramedOut:
    """What becomes of a recipe when something is done to its frame; nothing is stored."""
    return FramedOut.model_validate(_framed(json_data.recipe, json_data.ask))


def _framed(recipe: Recipe, ask: object) -> Framed:
    if isinstance(ask, AskRatio):
        return frame_actions.with_ratio(recipe, _written(ask.ratio))
    if isinstance(ask, AskEmpty):
        return frame_actions.with_empty(recipe, ask.allow)
    if isinstance(ask, AskPlace):
        return frame_actions.placed(recipe, ask.what, ask.lines, ask.across, ask.down)
    if isinstance(ask, AskEdges):
        return edges.taken(recipe, ask.mode, ask.extent, ask.share, ask.colour)
    if isinstance(ask, AskWiden):
        ratio = None if ask.ratio is None else _written(ask.ratio)
        return edges.widened(recipe, ratio, ask.side, ask.room)
    return SIMPLE[ask.do](recipe)  # type: ignore[attr-defined]


def _written(typed: str) -> str:
    """A ratio as the recipe writes it. Raises Problem."""
    try:
        return typed if typed in ("original", "free") else typed_ratio(typed)
    except ValueError as error:
        raise Problem(422, "No such ratio", str(error)) from None


@frames.post("/costs")
@frames.input(CostsIn)
@frames.output(CostsOut)
def costs(json_data: CostsIn) -> CostsOut:
    """What each way of framing costs."""
    return CostsOut(rows=[CostRowOut.model_validate(row) for row in cost_rows(json_data.recipe)])


@frames.get("/shapes")
@frames.output(ShapesOut)
def shapes() -> ShapesOut:
    """The usual ratios and papers, and the lines that a picture is composed by."""
    return ShapesOut(
        ratios=[UsualRatio(ratio=ratio, label=label) for ratio, label in USUAL_RATIOS],
        papers=[UsualPaper(paper=one.paper, unit=one.unit, label=paper_words(one)) for one in USUAL_PAPERS],
        families=[LineFamily(name=name, shares=list(shares)) for name, shares in SHARES.items()],
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
    written = _written(json_data.ratio)
    return OwnRatioOut.model_validate(ratios.keep_ratio(context().store, json_data.name.strip(), written))


@frames.delete("/ratios/<int:ratio_id>")
@frames.output({}, status_code=204)
def remove_ratio(ratio_id: int) -> str:
    """Forget a ratio."""
    ratios.remove_ratio(context().store, ratio_id)
    return ""
