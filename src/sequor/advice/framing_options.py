"""What each way of framing costs, before it is chosen: trimmed, or with corners to be filled; for each turn
that the lines determine."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from sequor.advice.edges import nothing_cut, same_size, with_edges
from sequor.advice.frame_actions import with_frame
from sequor.advice.presets import PRESETS
from sequor.core.estimation.unknowns import ANGLES
from sequor.core.frame.cost import Cost, cost, cut_off
from sequor.core.rectangle import Rectangle
from sequor.pipeline.cuts import cut_things
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.pipeline.frame import largest_frame, ratio_of
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError
from sequor.recipe.reopen import taking_out
from sequor.wording.frame import frame_ratio_words, loss_words
from sequor.wording.report import rect_values

Edges = Literal["trim", "trim free", "same size", "nothing cut"]
FREE = "Crop, free ratio"
TURNS = ("As taken", *(name for name, *_ in PRESETS[1:]))


@dataclass(frozen=True)
class CostRow:
    """One way: how far the picture is turned, what becomes of the edges, and what that costs.

    ``present``: it leaves the turn as it is. ``loss``: what it cuts that was marked or drawn, in words, else
    that it cuts a lot on one side; empty for neither. ``recipe``: the one it leads to.
    """

    turn: str
    edges: Edges
    label: str
    kept: float
    empty: float
    width: int
    height: int
    loss: str
    chosen: bool
    present: bool
    recipe: Recipe


def cost_rows(recipe: Recipe) -> list[CostRow]:
    """The table: for the present turn and each that the lines determine, up to four ways with the edges."""
    plain = with_frame(recipe, rect=None)
    now = evaluate(plain)
    level = max(
        (index + 1 for index, angle in enumerate(ANGLES) if now.solution.sd[angle] is not None), default=0
    )
    rows: list[CostRow] = []
    for index in range(len(TURNS)):
        turned = now if index == level else _turned(plain, index)
        if turned is not None:
            name = TURNS[index]
            if index == level == 0 and any(now.taken_out(angle) for angle in ANGLES):
                name = "Corrected by hand"
            rows += _rows(name, turned, recipe if index == level else None)
    return rows


def _turned(plain: Recipe, index: int) -> Evaluated | None:
    """The photo turned as a way says; None when the lines do not determine it."""
    if index == 0:
        return None
    _, angles, _ = PRESETS[index]
    try:
        there = evaluate(taking_out(plain, *angles))
    except RecipeError:
        return None
    return there if there.solution.sd[angles[-1]] is not None else None


def _rows(turn: str, turned: Evaluated, present: Recipe | None) -> list[CostRow]:
    """``present``: the recipe as it stands, when this is the turn that is taken out now."""
    recipe, warp, ratio = turned.recipe, turned.warp, ratio_of(turned.recipe)
    free = with_frame(recipe, ratio="free")
    trimmed = with_edges(with_frame(recipe, allow_empty=False), mode="trim", patches=[])
    trimmed_free = with_frame(trimmed, ratio="free")

    def row(edges: Edges, label: str, frame: Rectangle, costs: Cost, after: Recipe) -> CostRow:
        return CostRow(
            turn=turn,
            edges=edges,
            label=label,
            kept=costs.kept,
            empty=costs.empty if after.frame.allow_empty else 0.0,
            width=round(frame.width),
            height=round(frame.height),
            loss=loss_words(cut_things(recipe, warp, frame), cut_off(frame, warp)),
            chosen=after == present,
            present=present is not None,
            recipe=after,
        )

    def filled(edges: Edges, label: str, frame: Rectangle, before: Recipe) -> CostRow:
        after = with_edges(with_frame(before, rect=rect_values(frame), allow_empty=True), mode="fill")
        return row(edges, label, frame, cost(frame, warp), after)

    everything = nothing_cut(warp, None).inwards()
    rows = [
        filled("same size", "Fill, photo's own size", same_size(warp, ratio), recipe),
        filled("nothing cut", "Fill, whole picture", everything, free),
    ]
    # The evaluation has the largest frame of its own ratio already.
    if ratio is None:
        return [row("trim free", FREE, turned.frame, turned.cost, trimmed), *rows]
    exact = largest_frame(warp, None)
    label = f"Crop to {frame_ratio_words(recipe)}"
    return [
        row("trim", label, turned.frame, turned.cost, trimmed),
        row("trim free", FREE, exact.inwards(), cost(exact, warp), trimmed_free),
        *rows,
    ]
