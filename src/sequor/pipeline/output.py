"""The file that is written of a frame: its size, its format, what empty area is in it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from sequor.core.frame.print import Printed, print_frame
from sequor.core.rectangle import Rectangle
from sequor.pipeline.edges.base import WHITE, Colour
from sequor.pipeline.edges.registry import mode_of
from sequor.pipeline.frame import LONGEST_SIDE, MOST_PIXELS, Crop
from sequor.pipeline.stage import Stage
from sequor.recipe.model import Recipe
from sequor.recipe.model.export import CARRIES, ExportPart, LongEdge, Percent
from sequor.recipe.parse import RecipeError


@dataclass(frozen=True)
class Output:
    """``size``: width and height of the file in pixels. ``export``: how it is written. ``background``: what
    empty area is rendered as; ``clear``: whether it is clear in the file. ``printed``: the frame on the paper
    that is chosen."""

    size: tuple[int, int]
    export: ExportPart
    background: Colour
    clear: bool
    printed: Printed | None


class Write(Stage[Output]):
    """What is to be written. Raises RecipeError for a size that does not belong to the frame, and for clear
    corners in a format that has none."""

    reads = ("export", "frame.print", "edges.mode", "edges.colour")
    after = (Crop,)

    def run(self, recipe: Recipe, *upstream: Any) -> Output:
        frame, mode, export = upstream[0].frame, mode_of(recipe.edges), recipe.export
        clear = mode.clear(recipe.edges)
        if clear and not CARRIES[export.format].alpha:
            raise RecipeError(
                f"A {CARRIES[export.format].called} cannot have transparent corners. "
                "Export a PNG, or choose a colour for "
                "the corners",
                "edges.colour",
            )
        return Output(
            output_size(recipe, frame),
            export,
            background_of(recipe),
            clear,
            printed_on(recipe, frame),
        )


def background_of(recipe: Recipe) -> Colour:
    """What empty area is rendered as, before anything is filled or made clear."""
    return mode_of(recipe.edges).background(recipe.edges) or WHITE


def printed_on(recipe: Recipe, frame: Rectangle) -> Printed | None:
    """A frame on the paper that is chosen; None without one."""
    part = recipe.frame.print
    return None if part is None else print_frame(frame.width, frame.height, part.sheet)


def output_size(recipe: Recipe, frame: Rectangle) -> tuple[int, int]:
    """Width and height in pixels of the file that is written of a frame.

    Raises RecipeError when the recipe asks for a size that does not belong to the frame.
    """
    size, part = recipe.export.size, recipe.frame.print
    width, height = round(frame.width), round(frame.height)
    if size is None:
        return width, height
    if isinstance(size, Percent | LongEdge):
        by = size.percent / 100 if isinstance(size, Percent) else size.long_edge / max(width, height)
        size = max(1, round(width * by)), max(1, round(height * by))
    elif size == "print":
        if part is None:
            raise RecipeError("The size is that of a print, but no paper is chosen", "export.size")
        size = print_frame(frame.width, frame.height, part.sheet).pixels(part.ppi)
    elif abs(size[0] * height - size[1] * width) > max(width, height) + max(size):
        raise RecipeError(
            f"{size[0]} x {size[1]} pixels are not in the ratio of the frame, {width} x {height}; change one",
            "export.size",
        )
    if max(size) > LONGEST_SIDE or size[0] * size[1] > MOST_PIXELS:
        raise RecipeError(f"{size[0]} x {size[1]} pixels are too many to be written", "export.size")
    return size
