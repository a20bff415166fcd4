"""What happens with empty corners, and what is touched up."""

from __future__ import annotations

from typing import Annotated, Literal, Self, TypeVar

from pydantic import Field, StringConstraints, field_validator, model_validator

from sequor.recipe.model.base import (
    SMALLEST_EXTENT,
    USED_TWICE,
    Coordinate,
    Extent,
    Part,
    Point,
    Sha256,
    Share,
    Side,
    Text,
    reach,
    refuse_twice,
)

MOST_AREA_POINTS = 20_000
"""Points of all areas of a photo together."""

Place = Annotated[int, Field(ge=-1_000_000, le=1_000_000)]

Seed = Annotated[int, Field(ge=0, le=2**31 - 1)]

Colour = Annotated[str, StringConstraints(pattern=r"^#[0-9a-f]{6}$")]

Hint = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=200, pattern=r"^[^\x00-\x1f\x7f]*$"),
]


Mode = Literal["trim", "fill", "reshape", "leave"]
"""What can be done with empty corners, in the order in which it is shown."""


class PatchPart(Part):
    """New pixels for one part of the frame's empty area: a file named by the hash of its content.

    ``box``: [x, y, width, height] in the frame's pixels. ``seed`` is the take it belongs to, ``made_for`` the
    hash of all that it depends on: under a recipe that has another one it is stale.
    """

    sha256: Sha256
    part: Text = Field(min_length=1, max_length=40)
    box: tuple[Place, Place, Side, Side]
    seed: Seed
    made_for: Sha256


class AreaPart(Part):
    """An area of the corrected picture: what is brushed along ``points`` with ``radius``, or, null, what lies
    within them. In corrected pixels, like the frame."""

    id: Text = Field(min_length=1, max_length=20)
    points: list[Point] = Field(min_length=1, max_length=2000)
    radius: Extent | None = None

    @model_validator(mode="after")
    def _has_area(self) -> Self:
        if self.radius is None and (len(set(self.points)) < 3 or reach(self.points) < SMALLEST_EXTENT):
            raise ValueError("an area that is drawn around needs three points; a brushed one has a radius")
        return self


class DonorPart(AreaPart):
    """An area that new pixels must not, or may only, come from."""

    kind: Literal["from here", "not from here"]


class TouchUpPart(AreaPart):
    """An area that is filled like a corner: in full within it, then over ``feather`` pixels less and less;
    ``amount``: how much of what was there is replaced. ``hint``: painted by the outside painter from it."""

    feather: float = Field(default=0.0, ge=0, le=500, allow_inf_nan=False)
    amount: Share = 1.0
    active: bool = True
    seed: Seed = 1
    hint: Hint | None = None


Area = TypeVar("Area", bound=AreaPart)


class EdgesPart(Part):
    """What happens with empty corners. Filled: those parts that ``patches`` names by them, the others by the
    take ``seed``; in so many ``strips``, from the picture outwards, each from all before it; with a ``hint``
    by the outside painter. Reshaped: ``segments``, [x, y, x, y] in photo pixels, are the straight things that
    follow the correction; null = not looked for yet. Left: in ``colour``, null = clear."""

    mode: Mode = "trim"
    seed: Seed = 1
    strips: int = Field(default=1, ge=1, le=8)
    hint: Hint | None = None
    colour: Colour | None = None
    segments: list[tuple[Coordinate, Coordinate, Coordinate, Coordinate]] | None = Field(
        default=None, max_length=500
    )
    donors: list[DonorPart] = Field(default_factory=list, max_length=50)
    touch_ups: list[TouchUpPart] = Field(default_factory=list, max_length=50)
    patches: list[PatchPart] = Field(default_factory=list, max_length=150)

    @field_validator("patches")
    @classmethod
    def _each_part_once(cls, value: list[PatchPart]) -> list[PatchPart]:
        refuse_twice([patch.part for patch in value], "two patches are listed for the part {!r}")
        return value

    @model_validator(mode="after")
    def _few_points(self) -> Self:
        if sum(len(area.points) for area in (*self.donors, *self.touch_ups)) > MOST_AREA_POINTS:
            raise ValueError(f"the areas have more than {MOST_AREA_POINTS} points in all; draw them coarser")
        return self

    @field_validator("donors", "touch_ups")
    @classmethod
    def _areas_differ(cls, value: list[Area]) -> list[Area]:
        refuse_twice([area.id for area in value], USED_TWICE)
        return value
