"""The file that is written, and what the formats of files can carry."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Annotated, Literal, get_args

from pydantic import AfterValidator, Field

from sequor.recipe.model.base import Part, Share, Side, Text

Format = Literal["jpeg", "png", "tiff", "webp", "avif", "jxl"]
Depth = Literal[8, 10, 16]
Colours = Literal["keep", "srgb", "display-p3"]
LeftOut = Literal["place", "serials", "recipe"]
Compression = Literal["none", "lzw", "deflate"]
SharpFor = Literal["screen", "paper"]


@dataclass(frozen=True)
class Carries:
    """What the files of a format can carry. ``endings``: of their names, the usual one first; ``deep``:
    bits a colour beyond 8, if any; ``lossy``: the quality counts; ``profiles``: colours other than sRGB."""

    endings: tuple[str, ...]
    alpha: bool
    called: str
    deep: Literal[0, 10, 16] = 0
    lossy: bool = False
    profiles: bool = True


CARRIES: dict[Format, Carries] = {
    "jpeg": Carries((".jpg", ".jpeg"), alpha=False, called="JPEG", lossy=True),
    "png": Carries((".png",), alpha=True, called="PNG", deep=16),
    "tiff": Carries((".tif", ".tiff"), alpha=True, called="TIFF", deep=16),
    "webp": Carries((".webp",), alpha=True, called="WebP", lossy=True),
    "avif": Carries((".avif",), alpha=True, called="AVIF", deep=10, lossy=True),
    "jxl": Carries((".jxl",), alpha=True, called="JPEG XL", deep=16, lossy=True, profiles=False),
}


def _only_known(template: str) -> str:
    unknown = set(re.findall(r"{[^{}]*}", template)) - {f"{{{name}}}" for name in get_args(Placeholder)}
    bare = re.sub(r"{[^{}]*}", "", template)
    if unknown or "{" in bare or "}" in bare:
        known = " ".join(f"{{{name}}}" for name in get_args(Placeholder))
        raise ValueError(f"Only these can stand in braces in a name: {known}")
    if not template.strip():
        raise ValueError("A name needs at least one character")
    return template


Placeholder = Literal["file", "title", "version", "ratio", "date", "n"]
"""What may stand in braces in the name of a file."""

Template = Annotated[Text, AfterValidator(_only_known)]


class Percent(Part):
    """So many per cent of the frame's own pixels each way."""

    percent: float = Field(gt=0, le=400, allow_inf_nan=False)


class LongEdge(Part):
    """So many pixels on the longer side."""

    long_edge: Side


class ExportPart(Part):
    """The format of the exported file; ``quality`` counts for formats that lose something. ``size``: null =
    the frame's own pixels; "print" = just the ppi that the print wants; per cent; a long edge; [width,
    height] = just these, in the frame's ratio. ``depth`` null: the original's; more than 8 is as many bits as
    the format has. ``subsampling``: of colours in a JPEG or an AVIF; ``progressive``: of a JPEG;
    ``compression``: of a TIFF. ``profile``: the original's colours, or converted. ``sharpen``: how much, for
    the screen or for paper. ``leave_out``: what does not go along in the metadata. ``name``: of the file,
    with what is put in between braces (``recipe.names``)."""

    format: Format = "jpeg"
    quality: int = Field(default=95, ge=1, le=100)
    size: Literal["print"] | tuple[Side, Side] | Percent | LongEdge | None = None
    depth: Depth | None = None
    subsampling: Literal["444", "420"] = "444"
    progressive: bool = False
    compression: Compression = "deflate"
    profile: Colours = "keep"
    sharpen: Share = 0.0
    sharpen_for: SharpFor = "screen"
    leave_out: list[LeftOut] = Field(default_factory=list, max_length=3)
    name: Template | None = None
