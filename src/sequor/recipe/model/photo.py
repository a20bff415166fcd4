"""The photo that a recipe is for."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from sequor.recipe.model.base import FocalPx, Part, Sha256

Focal35mm = Annotated[float, Field(ge=1, le=20_000, allow_inf_nan=False)]


class PhotoPart(Part):
    """The photo after its recorded orientation and its quarter turns."""

    width: int = Field(gt=0, le=65535)
    height: int = Field(gt=0, le=65535)
    sha256: Sha256 | None = None
    quarter_turns: int = Field(default=0, ge=0, le=3, description="clockwise")
    focal_35mm: Focal35mm | None = 28.0
    focal_px: FocalPx | None = None
