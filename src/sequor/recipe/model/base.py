"""What all parts of a recipe are made of."""

from __future__ import annotations

from collections import Counter
from typing import Annotated, Self

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, model_validator

LARGEST_COORDINATE = 1e6
"""Pixels: fifteen times the longest side of a photo. Beyond it no place in a picture can be meant."""

SMALLEST_EXTENT = 1e-3
"""Pixels that the points of a line must lie apart, and an area must reach."""

Coordinate = Annotated[float, Field(ge=-LARGEST_COORDINATE, le=LARGEST_COORDINATE, allow_inf_nan=False)]

Extent = Annotated[float, Field(ge=SMALLEST_EXTENT, le=LARGEST_COORDINATE, allow_inf_nan=False)]

FocalPx = Annotated[float, Field(ge=1, le=1e7, allow_inf_nan=False)]

Length = Annotated[float, Field(gt=0, le=1e5, allow_inf_nan=False)]

Text = Annotated[str, StringConstraints(max_length=200, pattern=r"^[^\x00-\x1f\x7f]*$")]
"""Words without control characters."""

Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]

Point = tuple[Coordinate, Coordinate]

Side = Annotated[int, Field(ge=1, le=65_500)]

Sha256 = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]


class Part(BaseModel):
    """A part of the recipe: unknown keys are an error, keys that begin with ``x-`` are kept as they are."""

    model_config = ConfigDict(
        extra="allow",
        frozen=True,
        json_schema_extra={"additionalProperties": False, "patternProperties": {"^x-": {}}},
    )

    @model_validator(mode="after")
    def _only_known_keys(self) -> Self:
        for key in self.model_extra or {}:
            if not key.startswith("x-"):
                raise UnknownKeyError(key)
        return self


class UnknownKeyError(ValueError):
    """A key that the recipe does not know; ``key`` is its name."""

    def __init__(self, key: str) -> None:
        super().__init__(f"the key {key!r} is not known; keys of your own must begin with x-")
        self.key = key


USED_TWICE = "the id {!r} is used twice"


def refuse_twice(names: list[str], words: str) -> None:
    """Raise ValueError with these words for a name that occurs twice."""
    twice = [name for name, count in Counter(names).items() if count > 1]
    if twice:
        raise ValueError(words.format(min(twice)))


def reach(points: list[Point]) -> float:
    """The longer side of the box about some points."""
    return max(max(values) - min(values) for values in ([x for x, _ in points], [y for _, y in points]))
