"""What goes over the wire about frames, ratios and versions."""

from __future__ import annotations

from pydantic import Field

from sequor.advice.framing_options import Edges
from sequor.core.frame.print import Unit
from sequor.recipe.model import Recipe
from sequor.recipe.model.base import Text
from sequor.web.wire import Name, Wire


class CostsIn(Wire):
    """A recipe whose ways of framing are to be compared."""

    recipe: Recipe


class CostRowOut(Wire):
    """What one way costs; ``chosen``: it is as the recipe says already, ``present``: it leaves the turn as it
    is."""

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


class CostsOut(Wire):
    """The table of costs."""

    rows: list[CostRowOut]


class UsualRatio(Wire):
    """A ratio that is offered, and its label."""

    ratio: str
    label: str


class UsualPaper(Wire):
    """A paper that is offered, and its label."""

    paper: tuple[float, float]
    unit: Unit
    label: str


class UsualUnit(Wire):
    """A unit of papers, and the longest side of a paper in it."""

    unit: Unit
    longest: float


class ShapesOut(Wire):
    """The usual ratios and papers, and the golden spiral in the unit square."""

    ratios: list[UsualRatio]
    papers: list[UsualPaper]
    units: list[UsualUnit]
    spiral: list[tuple[float, float]]


class OwnRatioIn(Wire):
    """A ratio to be kept under a name."""

    name: Name = Field(max_length=40)
    ratio: Text = Field(min_length=1, max_length=60)


class OwnRatioOut(Wire):
    """A ratio that was kept."""

    id: int
    name: str
    ratio: str


class OwnRatiosOut(Wire):
    """All that were kept."""

    ratios: list[OwnRatioOut]
