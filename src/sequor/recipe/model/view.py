"""How wide a picture looks, and whether wishes are carried out."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sequor.recipe.model.base import Part, Share

LooksLike = Annotated[float, Field(ge=8, le=400, allow_inf_nan=False)]
"""Millimetres at 35 mm."""

ViewKind = Literal["flat", "round", "sideways"]

Border = Literal["free", "rectangle"]

Uprights = Annotated[float, Field(ge=0, le=20, allow_inf_nan=False)]


class ViewPart(Part):
    """How wide it looks: nothing is stretched more than at the edge of a flat picture of
    ``looks_like_35mm`` (null: as taken); ``uprights``: how firmly what is upright stays so."""

    kind: ViewKind = "flat"
    looks_like_35mm: LooksLike | None = None
    uprights: Uprights = 3.0


class BendPart(Part):
    """Whether and how far what lines are to become is carried out; ``border``: what the photo's own is to be
    in the wide view."""

    on: bool = True
    amount: Share = 1.0
    border: Border = "free"
