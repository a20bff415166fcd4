"""What each way of framing costs, before it is chosen: trimmed, or with corners to be filled; for each turn
that the lines determine."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from sequor.core.fitting import largest
from sequor.core.frame import cost
from sequor.core.mapping import photo_corners
from sequor.core.observations import ANGLES
from sequor.core.rectangle import Rectangle

from .evaluate import WHOLE, Evaluation, evaluate
from .frame_actions import with_frame
from .frame_words import frame_ratio_words
from .framed import largest_frame, photo_middle, ratio_of, subject_on
from .model import Recipe
from .offers import to_solve_anew
from .reading import RecipeError
from .report import rect_values
from .ways import WAYS

Edges = Literal["trim", "trim free", "same size", "nothing cut"]
TURNS = ("As taken", "Turned only", "Walls upright", "Square-on")


@dataclass(frozen=True)
class CostRow:
    """One way: how far the picture is turned, what becomes of the edges, and what that costs.

    ``subject``: whether the subject mark stays inside, None without one. ``recipe``: the one it leads to.
    """

    turn: str
    edges: Edges
    label: str
    kept: float
    empty: float
    width: int
    height: int
    subject: bool | None
    chosen: bool
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
                name = "Turned by hand"
            rows += _rows(name, turned, recipe if index == level else None)
    return rows


def _turned(plain: Recipe, index: int) -> Evaluation | None:
    """The photo turned as a way says; None when the lines do not determine it."""
    if index == 0:
        return None
    _, angles, _ = WAYS[index - 1]
    others = [unknown for unknown in plain.correction.free if unknown not in ANGLES]
    try:
        there = evaluate(to_solve_anew(plain, free=[*angles, *others]))
    except RecipeError:
        return None
    return there if there.solution.sd[angles[-1]] is not None else None


def _rows(turn: str, turned: Evaluation, present: Recipe | None) -> list[CostRow]:
    """``present``: the recipe as it stands, when this is the turn that is taken out now."""
    recipe, mapping, ratio = turned.recipe, turned.mapping, ratio_of(turned.recipe)
    named = frame_ratio_words(recipe)
    free = recipe if ratio is None else with_frame(recipe, ratio="free")
    everything = Rectangle.between(mapping.outline()).inwards()
    ways: list[tuple[Edges, str, Rectangle, Recipe]] = [
        ("trim free", "Trim, free shape", largest_frame(mapping, None), with_frame(free, allow_empty=False)),
        (
            "same size",
            "Fill, same size",
            same_size := _same_size(turned, ratio),
            with_frame(recipe, rect=rect_values(same_size), allow_empty=True),
        ),
        (
            "nothing cut",
            "Fill, nothing cut",
            everything,
            with_frame(free, rect=rect_values(everything), allow_empty=True),
        ),
    ]
    if ratio is not None:
        trimmed = largest_frame(mapping, ratio)
        ways.insert(0, ("trim", f"Trim {named}", trimmed, with_frame(recipe, allow_empty=False)))
    rows = []
    for edges, label, exact, after in ways:
        costs, whole = cost(exact, mapping), exact.inwards()
        mark = recipe.frame.subject
        where = None if mark is None else subject_on(mapping, mark)
        rows.append(
            CostRow(
                turn=turn,
                edges=edges,
                label=label,
                kept=costs.kept,
                empty=costs.empty if edges in ("same size", "nothing cut") else 0.0,
                width=round(whole.width),
                height=round(whole.height),
                subject=None if mark is None else where is not None and whole.contains(where, WHOLE),
                chosen=present is not None and after.frame == present.frame,
                recipe=after,
            )
        )
    return rows


def _same_size(turned: Evaluation, ratio: tuple[float, float] | None) -> Rectangle:
    """The frame that the photo would have had, had it not been turned: the largest of the ratio on it."""
    mapping = turned.mapping
    if ratio is None:
        return Rectangle(0.0, 0.0, float(mapping.width), float(mapping.height))
    photo = photo_corners(mapping.width, mapping.height)
    return largest(photo, *ratio, photo_middle(mapping)).inwards()
