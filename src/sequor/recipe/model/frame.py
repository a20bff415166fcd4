"""The frame, its subject and its print."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import Field, StringConstraints, field_validator, model_validator

from sequor.core.frame.print import MM_PER, USUAL_PPI, Sheet, Unit
from sequor.core.frame.ratio import parse_ratio
from sequor.recipe.model.base import Coordinate, Extent, Length, Part, Side

Ratio = Annotated[str, StringConstraints(max_length=40)]

SubjectPoint = tuple[Coordinate, Coordinate]

SubjectBox = tuple[Coordinate, Coordinate, Extent, Extent]


LONGEST_MM = 10_000.0
"""The longest side of a paper."""


class PrintPart(Part):
    """The paper that the frame is printed on: its size, and on every side the white border and what the
    printer trims, in ``unit``; ``ppi`` is what is wanted. Upright or lying makes no difference."""

    paper: tuple[Length, Length]
    unit: Unit = "mm"
    border: float = Field(default=0.0, ge=0, le=1e5, allow_inf_nan=False)
    trim: float = Field(default=0.0, ge=0, le=1e5, allow_inf_nan=False)
    ppi: float = Field(default=USUAL_PPI, ge=10, le=10_000, allow_inf_nan=False)

    @model_validator(mode="after")
    def _leaves_room(self) -> Self:
        if 2 * self.border >= min(self.paper):
            raise ValueError("the border leaves nothing of the paper; make it smaller")
        if not all(1 <= side * MM_PER[self.unit] <= LONGEST_MM for side in self.paper):
            raise ValueError("a paper is 1 mm to 10 m wide and high")
        return self

    @property
    def sheet(self) -> Sheet:
        """The same in millimetres."""
        mm = MM_PER[self.unit]
        return Sheet(self.paper[0] * mm, self.paper[1] * mm, self.border * mm, self.trim * mm)


class FramePart(Part):
    """The crop rectangle in corrected pixels; ``rect`` null: the largest that fits. ``subject``: a point
    [x, y] or a box [x, y, width, height] in photo pixels."""

    ratio: Ratio = "original"
    rect: tuple[Coordinate, Coordinate, Side, Side] | None = None
    allow_empty: bool = False
    subject: SubjectPoint | SubjectBox | None = None
    print: PrintPart | None = None

    @field_validator("ratio")
    @classmethod
    def _known_ratio(cls, value: str) -> str:
        if value not in ("original", "free"):
            parse_ratio(value)
        return value
