"""The references, and how many there may be."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import Field, model_validator

from sequor.core.references.registry import Kind, kind_of
from sequor.recipe.model.base import SMALLEST_EXTENT, Extent, Part, Point, Text, reach

MOST_POINTS = 3_000
"""Points of all lines of a photo together, so that a solve ends while somebody waits."""

MOST_GROUPS = 40
"""Groups of receding lines: each is one unknown more."""

NOTE = "x-snap"
"""The key under which a reference remembers how it was laid, or why it could not be snapped."""


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

    @model_validator(mode="after")
    def _enough_points(self) -> Self:
        kind = kind_of(self.kind)
        refusal = kind.refusal(self.points)
        if refusal is not None:
            raise ValueError(refusal)
        if self.shape is not None and not kind.shaped:
            raise ValueError("only a rectangle has a shape")
        if reach(self.points) < SMALLEST_EXTENT:
            raise ValueError("all points of the line are in the same place")
        return self
