"""What goes over the wire about frames, ratios and versions."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sequor.advice.edges import Side
from sequor.advice.framing_options import Edges
from sequor.core.frame.print import Unit
from sequor.pipeline.edges.base import Extent
from sequor.recipe.model import Recipe
from sequor.recipe.model.base import Text
from sequor.recipe.model.edges import Colour, Mode
from sequor.web.wire import Name, Wire

Share = Annotated[float, Field(gt=0, lt=1)]


class AskRatio(Wire):
    """Another ratio: as the recipe writes it, or as people type it ("13.6 x 9.9")."""

    do: Literal["ratio"]
    ratio: Text = Field(min_length=1, max_length=60)


class AskSimply(Wire):
    """Upright or lying; the largest around the subject; centred; the shape of the paper."""

    do: Literal["swap", "around", "centre", "paper"]


class AskEmpty(Wire):
    """Permission to include empty corners, given or taken back."""

    do: Literal["empty"]
    allow: bool


class AskPlace(Wire):
    """A thing onto a line of the frame: the subject, a level line, or the middle between two plumb lines
    (``lines``: their ids). ``across`` and ``down``: shares of the frame's width and height."""

    do: Literal["place"]
    what: Literal["subject", "level", "plumb"]
    lines: list[str] = Field(default_factory=list, max_length=2)
    across: Share | None = None
    down: Share | None = None


class AskEdges(Wire):
    """A way with the empty corners, and how far the frame reaches for it; ``share``: how much of it may be
    empty at most. ``colour`` null leaves them clear."""

    do: Literal["edges"]
    mode: Mode
    extent: Extent = "as it is"
    share: Annotated[float, Field(ge=0, le=1)] | None = None
    colour: Colour | None = None


class AskWiden(Wire):
    """A frame that is drawn out beyond the picture: to a ratio, or by ``room``, a share, on a side."""

    do: Literal["widen"]
    ratio: Annotated[str, Field(max_length=40)] | None = None
    side: Side = "both"
    room: Annotated[float, Field(gt=0, le=2)] = 0.1


Ask = AskRatio | AskSimply | AskEmpty | AskPlace | AskEdges | AskWiden


class FrameIn(Wire):
    """Something to be done to the frame of a recipe."""

    recipe: Recipe
    ask: Annotated[Ask, Field(discriminator="do")]


class FramedOut(Wire):
    """The recipe after it, the action for the log, and what else is to be told; ``done`` false: the recipe is
    the nearest to what was asked."""

    recipe: Recipe
    action: str
    words: str
    done: bool


class CostsIn(Wire):
    """A recipe whose ways of framing are to be compared."""

    recipe: Recipe


class CostRowOut(Wire):
    """What one way costs, and the recipe that it leads to."""

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


class LineFamily(Wire):
    """Lines in the frame at the same shares of its width and its height."""

    name: str
    shares: list[float]


class ShapesOut(Wire):
    """The usual ratios and papers, the lines to compose by, and the golden spiral in the unit square."""

    ratios: list[UsualRatio]
    papers: list[UsualPaper]
    families: list[LineFamily]
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
