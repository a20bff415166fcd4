"""The frame: where it lies, its ratio, its subject, what it is printed on."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from sequor.actions.base import Action, Takes
from sequor.advice import edges, frame_actions
from sequor.advice.edges import Side, open_mode, with_edges
from sequor.advice.frame_actions import with_frame
from sequor.advice.framing_options import Edges, cost_rows
from sequor.advice.made import Made
from sequor.core.frame.print import Unit
from sequor.core.frame.ratio import typed_ratio
from sequor.pipeline.edges.base import Extent
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.base import Coordinate, Length, Point, Text
from sequor.recipe.model.edges import Colour, Mode
from sequor.recipe.model.frame import PrintPart
from sequor.recipe.parse import RecipeError
from sequor.wording.frame import UNIT_WORDS, paper_words

SMALLEST_SIDE = 16
"""Corrected pixels under which a frame is not drawn by hand."""

HandSide = Annotated[int, Field(ge=SMALLEST_SIDE, le=65_500)]

HandRect = tuple[Coordinate, Coordinate, HandSide, HandSide]

Share = Annotated[float, Field(gt=0, lt=1)]

PPI = Annotated[float, Field(ge=20, le=2400)]


class SetFrame(Action):
    """The frame, [x, y, width, height] in corrected pixels; null: the largest that fits."""

    do: Literal["frame"]
    rect: HandRect | None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        if self.rect is None:
            return Made(with_frame(recipe, rect=None), "Frame: largest that fits")
        how = "moved" if _same_size(recipe, self.rect) else "resized"
        return Made(with_frame(recipe, rect=self.rect), f"Frame: {how}")


class DrawOut(Action):
    """A frame that is drawn out beyond the picture: what is new in it is filled, unless it is left."""

    do: Literal["draw out"]
    rect: HandRect

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        after = with_edges(with_frame(recipe, rect=self.rect, allow_empty=True), mode=open_mode(recipe))
        moved = _same_size(recipe, self.rect)
        return Made(after, f"Frame: {'moved' if moved else 'extended by hand'}")


def _same_size(recipe: Recipe, rect: HandRect) -> bool:
    frame = evaluate(recipe).frame
    return abs(rect[2] - frame.width) < 0.5 and abs(rect[3] - frame.height) < 0.5


class Ratio(Action):
    """Another ratio: as the recipe writes it, or as people type it ("13.6 x 9.9")."""

    do: Literal["ratio"]
    ratio: Text = Field(min_length=1, max_length=60)

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        return frame_actions.with_ratio(recipe, written(self.ratio))


SIMPLE = {
    "swap": frame_actions.swapped,
    "around": frame_actions.around_subject,
    "centre": frame_actions.centred,
    "paper shape": frame_actions.paper_shape,
}


class Simply(Action):
    """Upright or lying; the largest around the subject; centred; the shape of the paper."""

    do: Literal["swap", "around", "centre", "paper shape"]

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        return SIMPLE[self.do](recipe)


class Empty(Action):
    """Permission to include empty corners, given or taken back."""

    do: Literal["empty"]
    allow: bool

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        return frame_actions.with_empty(recipe, self.allow)


class Place(Action):
    """A thing onto a line of the frame: the subject, a level line, or the middle between two plumb lines
    (``lines``: their ids). ``across`` and ``down``: shares of the frame's width and height. ``nearest``: as
    near as can be will do; ``fill``: rather than shrink, the frame reaches beyond the picture."""

    do: Literal["place"]
    what: Literal["subject", "level", "plumb"]
    lines: list[str] = Field(default_factory=list, max_length=2)
    across: Share | None = None
    down: Share | None = None
    nearest: bool = False
    fill: bool = False

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        if self.fill:
            recipe = with_edges(with_frame(recipe, allow_empty=True), mode=open_mode(recipe))
        made = frame_actions.placed(recipe, self.what, self.lines, self.across, self.down)
        return Made(made.recipe, made.action) if self.nearest else made


class Corners(Action):
    """A way with the empty corners, and how far the frame reaches for it; ``share``: how much of it may be
    empty at most. ``colour`` null leaves them clear."""

    do: Literal["edges"]
    mode: Mode
    extent: Extent = "as it is"
    share: Annotated[float, Field(ge=0, le=1)] | None = None
    colour: Colour | None = None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        return edges.taken(recipe, self.mode, self.extent, self.share, self.colour)


class Widen(Action):
    """A frame that is drawn out beyond the picture: to a ratio, or by ``room``, a share, on a side."""

    do: Literal["widen"]
    ratio: Annotated[str, Field(max_length=40)] | None = None
    side: Side = "both"
    room: Annotated[float, Field(ge=0.01, le=2)] = 0.1

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        ratio = None if self.ratio is None else written(self.ratio)
        return edges.widened(recipe, ratio, self.side, self.room)


class Framing(Action):
    """One of the ways whose costs are compared, by its turn and what becomes of the edges; nothing when the
    lines have changed and it is gone."""

    do: Literal["framing"]
    turn: str
    edges: Edges

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        for row in cost_rows(recipe):
            if (row.turn, row.edges) == (self.turn, self.edges):
                return Made(row.recipe, f"{row.turn}: {row.label}")
        return Made(recipe, "", "The lines have changed, so this choice is gone.", done=False)


class MarkSubject(Action):
    """What matters most, in photo pixels: a point, or two opposite corners of a box about it; null: no
    mark."""

    do: Literal["subject"]
    mark: tuple[Point] | tuple[Point, Point] | None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        before = recipe.frame.subject
        if self.mark is None:
            return Made(with_frame(recipe, subject=None), "Subject: mark removed")
        subject = _mark(recipe, *self.mark)
        after = with_frame(recipe, subject=subject)
        if before is None:
            return Made(after, "Subject: marked")
        if before[2:] == subject[2:]:
            return Made(after, "Subject: mark moved")
        return Made(after, "Subject: mark resized" if len(subject) == 4 else "Subject: marked")


def _mark(recipe: Recipe, one: Point, other: Point | None = None) -> tuple[float, ...]:
    """The mark as the recipe writes it, on the photo."""
    photo = recipe.photo

    def on(point: Point) -> Point:
        x, y = point
        return round(min(max(x, 0.0), photo.width), 2), round(min(max(y, 0.0), photo.height), 2)

    (ax, ay), (bx, by) = on(one), on(other or one)
    width, height = round(abs(bx - ax), 2), round(abs(by - ay), 2)
    return (min(ax, bx), min(ay, by), width, height) if width and height else (ax, ay)


class ChoosePaper(Action):
    """What the frame is printed on; null: nothing. Border and cut stay only in the unit that they were given
    in; without a paper nothing can be exported just for it."""

    do: Literal["paper"]
    paper: tuple[Length, Length] | None
    unit: Unit = "mm"

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        if self.paper is None:
            export = recipe.export
            size = None if export.size == "print" else export.size
            return Made(
                evolve(with_frame(recipe, print=None), export=evolve(export, size=size)), "Print: no paper"
            )
        before = recipe.frame.print or PrintPart(paper=self.paper)
        changes: dict[str, Any] = {"paper": self.paper, "unit": self.unit}
        if before.unit != self.unit:
            changes |= {"border": 0.0, "trim": 0.0}
        paper = evolve(before, **changes)
        return Made(with_frame(recipe, print=paper), f"Print: {paper_words(paper)}")


class OnPaper(Action):
    """How the frame lies on its paper: the white border, what the printer cuts off, the ppi that is
    wanted."""

    do: Literal["on paper"]
    border: Annotated[float, Field(ge=0, le=1e5)] | None = None
    trim: Annotated[float, Field(ge=0, le=1e5)] | None = None
    ppi: PPI | None = None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        before = recipe.frame.print
        if before is None:
            raise RecipeError("Choose a paper size first", "frame.print")
        changes = self.model_dump(exclude={"do"}, exclude_none=True)
        after = with_frame(recipe, print=evolve(before, **changes))
        unit = UNIT_WORDS[before.unit]
        said = [
            *([] if self.border is None else [f"white border {self.border:g} {unit}"]),
            *([] if self.trim is None else [f"bleed {self.trim:g} {unit}"]),
            *([] if self.ppi is None else [f"target {self.ppi:g} ppi"]),
        ]
        return Made(after, f"Print: {', '.join(said) or 'as before'}")


def written(typed: str) -> str:
    """A ratio as the recipe writes it. Raises RecipeError."""
    try:
        return typed if typed in ("original", "free") else typed_ratio(typed)
    except ValueError as error:
        raise RecipeError(str(error), "ratio") from None
