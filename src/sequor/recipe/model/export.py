"""The file that is written, and what the formats of files can carry."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from pydantic import Field

from sequor.recipe.model.base import Part, Side

Format = Literal["jpeg", "png"]


@dataclass(frozen=True)
class Carries:
    """What the files of a format can carry. ``endings``: of their names, the usual one first."""

    endings: tuple[str, ...]
    alpha: bool


CARRIES: dict[Format, Carries] = {
    "jpeg": Carries((".jpg", ".jpeg"), alpha=False),
    "png": Carries((".png",), alpha=True),
}


class ExportPart(Part):
    """The format of the exported file; ``quality`` counts for JPEG. ``size``: null = the frame's own pixels;
    "print" = just the ppi that the print wants; [width, height] = just these, in the frame's ratio."""

    format: Format = "jpeg"
    quality: int = Field(default=95, ge=1, le=100)
    size: Literal["print"] | tuple[Side, Side] | None = None
