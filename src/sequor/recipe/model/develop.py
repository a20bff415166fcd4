"""How a raw photo is developed: its white balance and its exposure, no more than that."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from sequor.recipe.model.base import Part

Temperature = Annotated[float, Field(ge=2000, le=25_000, allow_inf_nan=False)]
Tint = Annotated[float, Field(ge=-100, le=100, allow_inf_nan=False)]
Stops = Annotated[float, Field(ge=-4, le=4, allow_inf_nan=False)]


class DevelopPart(Part):
    """The light that is to look white: its correlated colour ``temperature`` in kelvin, and its ``tint``, a
    thousandth of its distance from black bodies in CIE 1960 u, v, above 0 where it is greener; null: as shot.
    ``exposure`` in stops."""

    temperature: Temperature | None = None
    tint: Tint | None = None
    exposure: Stops = 0.0
