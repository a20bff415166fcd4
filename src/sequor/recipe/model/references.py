"""The references, and how many there may be."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import Field, model_validator

from sequor.core.references.base import Way
from sequor.core.references.registry import Kind, kind_of
from sequor.recipe.model.base import SMALLEST_EXTENT, Extent, Part, Point, Share, Text, reach

MOST_POINTS = 3_000
"""Points of all lines of a photo together, so that a solve ends while somebody waits."""

MOST_GROUPS = 40
"""Groups of receding lines: each is one unknown more."""

NOTE = "x-snap"
"""The key under which a reference remembers how it was laid, or why it could not be snapped."""


Lean = Annotated[float, Field(ge=-5, le=5, allow_inf_nan=False)]


class BecomePart(Part):
    """What a thing is to become in the wide view: straight in any direction, level, or upright; of a
    rectangle all four sides. ``off_deg``: a lean that is meant, positive = top to the right, or right end
    lower; ``amount``: how far."""

    way: Way
    off_deg: Lean = 0.0
    amount: Share = 1.0

    @model_validator(mode="after")
    def _belong_together(self) -> Self:
        if self.off_deg and self.way == "straight":
            raise ValueError("what is straight in any direction has no off_deg; leave it out")
        return self


class ReferencePart(Part):
    """One reference; ``points`` in photo pixels as taken."""

    id: Text = Field(min_length=1, max_length=64)
    kind: Kind
    points: list[Point] = Field(min_length=2, max_length=1000)
    sigma_px: Annotated[float, Field(ge=1e-4, le=1e4, allow_inf_nan=False)] | None = None
    group: Text | None = None
    shape: tuple[Extent, Extent] | None = None
    weight: float = Field(default=1.0, gt=0, le=10, allow_inf_nan=False)
    active: bool = True
    become: BecomePart | None = None

    @model_validator(mode="after")
    def _enough_points(self) -> Self:
        kind = kind_of(self.kind)
        refusal = kind.refusal(self.points)
        if refusal is not None:
            raise ValueError(refusal)
        if self.shape is not None and not kind.shaped:
            raise ValueError("only a rectangle has a shape")
        if self.become is not None and kind.becomes is None:
            raise ValueError(f"a {self.kind} reference only reports; it becomes nothing")
        if reach(self.points) < SMALLEST_EXTENT:
            raise ValueError("all points of the line are in the same place")
        return self
