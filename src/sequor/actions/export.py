"""How the file is written."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sequor.actions.base import Action, Takes
from sequor.advice.made import Made
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.base import Share, Side
from sequor.recipe.model.export import (
    CARRIES,
    Colours,
    Compression,
    Depth,
    Format,
    LeftOut,
    LongEdge,
    Percent,
    SharpFor,
    Template,
)

MOST_WORDS = 200
"""Characters of an action's words in the history."""

Quality = Annotated[int, Field(ge=1, le=100)]

COLOUR_WORDS: dict[Colours, str] = {
    "keep": "the photo's own colours",
    "srgb": "converted to sRGB",
    "display-p3": "converted to Display P3",
}
LEFT_OUT_WORDS: dict[LeftOut, str] = {
    "place": "the location",
    "serials": "serial numbers",
    "recipe": "the steps",
}


class SetFormat(Action):
    """The format of the file."""

    do: Literal["format"]
    format: Format

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        return Made(_with(recipe, format=self.format), f"Export: {CARRIES[self.format].called}")


class SetQuality(Action):
    """How closely a file keeps to the picture, in formats that lose something."""

    do: Literal["quality"]
    quality: Quality

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        return Made(_with(recipe, quality=self.quality), f"Export: quality {self.quality}")


class SetDepth(Action):
    """How deep the colours of the file are; null: as deep as the photo's."""

    do: Literal["depth"]
    depth: Depth | None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        words = "as many bits as the photo" if self.depth is None else f"{self.depth} bits"
        return Made(_with(recipe, depth=self.depth), f"Export: {words}")


class SetSubsampling(Action):
    """Whether colours are written at full resolution, or at half of it each way."""

    do: Literal["subsampling"]
    subsampling: Literal["444", "420"]

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        words = "colours at full resolution" if self.subsampling == "444" else "colours at half resolution"
        return Made(_with(recipe, subsampling=self.subsampling), f"Export: {words}")


class SetColours(Action):
    """The profile of the file: the photo's own, or one that its colours are converted to."""

    do: Literal["colours"]
    profile: Colours

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        return Made(_with(recipe, profile=self.profile), f"Export: {COLOUR_WORDS[self.profile]}")


class SetProgressive(Action):
    """Whether a JPEG is written so that it can be shown coarsely before all of it is there."""

    do: Literal["progressive"]
    on: bool

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        words = "progressive" if self.on else "not progressive"
        return Made(_with(recipe, progressive=self.on), f"Export: {words}")


class SetCompression(Action):
    """How a TIFF is compressed."""

    do: Literal["compression"]
    compression: Compression

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        words = "no compression" if self.compression == "none" else f"{self.compression.upper()} compression"
        return Made(_with(recipe, compression=self.compression), f"Export: {words}")


class Sharpen(Action):
    """How much the file is sharpened, and for what."""

    do: Literal["sharpen"]
    amount: Share
    to: SharpFor = "screen"

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        words = f"sharpened for {self.to}, {100 * self.amount:.0f}%" if self.amount else "not sharpened"
        return Made(_with(recipe, sharpen=self.amount, sharpen_for=self.to), f"Export: {words}")


class SetName(Action):
    """What the file is called; null: as the photo."""

    do: Literal["name"]
    name: Template | None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        words = "named as the photo" if self.name is None else f"named {self.name}"
        return Made(_with(recipe, name=self.name), f"Export: {words}"[:MOST_WORDS])


class LeaveOut(Action):
    """Whether something goes along in the file's metadata."""

    do: Literal["leave out"]
    what: LeftOut
    out: bool

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        left = [one for one in recipe.export.leave_out if one != self.what]
        words = f"Export: {'without' if self.out else 'with'} {LEFT_OUT_WORDS[self.what]}"
        return Made(_with(recipe, leave_out=sorted([*left, self.what] if self.out else left)), words)


class SetSize(Action):
    """How many pixels are written: a width, its height then as the frame's; "print": just those that the
    print wants; so many per cent; a long edge; nothing of it: the frame's own."""

    do: Literal["size"]
    width: Side | Literal["print"] | None = None
    percent: Annotated[float, Field(ge=1, le=400)] | None = None
    long_edge: Side | None = None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        size: tuple[int, int] | Literal["print"] | Percent | LongEdge | None
        if self.percent is not None:
            size, words = Percent(percent=self.percent), f"Export: {self.percent:g}% of the size"
        elif self.long_edge is not None:
            size, words = LongEdge(long_edge=self.long_edge), f"Export: long edge {self.long_edge} px"
        elif isinstance(self.width, int):
            frame = evaluate(recipe).frame
            size = (self.width, max(1, round(self.width * frame.height / frame.width)))
            words = f"Export: {size[0]} × {size[1]} px"
        else:
            size = self.width
            words = "Export: print size" if size else "Export: full size"
        return Made(_with(recipe, size=size), words)


def _with(recipe: Recipe, **changes: object) -> Recipe:
    return evolve(recipe, export=evolve(recipe.export, **changes))
