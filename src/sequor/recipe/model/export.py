"""The file that is written, and what the formats of files can carry."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from pydantic import Field

from sequor.recipe.model.base import Part, Side

Format = Literal["jpeg", "png", "tiff", "webp", "avif", "jxl"]
Depth = Literal[8, 16]
Colours = Literal["keep", "srgb", "display-p3"]
LeftOut = Literal["place", "serials"]


@dataclass(frozen=True)
class Carries:
    """What the files of a format can carry. ``endings``: of their names, the usual one first; ``deep``: 16
    bits; ``lossy``: the quality counts; ``profiles``: colours other than sRGB."""

    endings: tuple[str, ...]
    alpha: bool
    called: str
    deep: bool = False
    lossy: bool = False
    profiles: bool = True


CARRIES: dict[Format, Carries] = {
    "jpeg": Carries((".jpg", ".jpeg"), alpha=False, called="JPEG", lossy=True),
    "png": Carries((".png",), alpha=True, called="PNG", deep=True),
    "tiff": Carries((".tif", ".tiff"), alpha=True, called="TIFF", deep=True),
    "webp": Carries((".webp",), alpha=True, called="WebP", lossy=True),
    "avif": Carries((".avif",), alpha=True, called="AVIF", lossy=True),
    "jxl": Carries((".jxl",), alpha=True, called="JPEG XL", deep=True, lossy=True, profiles=False),
}


class Percent(Part):
    """So many per cent of the frame's own pixels each way."""

    percent: float = Field(gt=0, le=400, allow_inf_nan=False)


class LongEdge(Part):
    """So many pixels on the longer side."""

    long_edge: Side


class ExportPart(Part):
    """The format of the exported file; ``quality`` counts for formats that lose something. ``size``: null =
    the frame's own pixels; "print" = just the ppi that the print wants; per cent; a long edge; [width,
    height] = just these, in the frame's ratio. ``depth`` null: the original's, where the format has it.
    ``subsampling``: of colours in a JPEG. ``profile``: the original's colours, or converted. ``leave_out``:
    what does not go along in the metadata."""

    format: Format = "jpeg"
    quality: int = Field(default=95, ge=1, le=100)
    size: Literal["print"] | tuple[Side, Side] | Percent | LongEdge | None = None
    depth: Depth | None = None
    subsampling: Literal["444", "420"] = "444"
    profile: Colours = "keep"
    leave_out: list[LeftOut] = Field(default_factory=list, max_length=2)
