"""The frame that a recipe asks for: its ratio, its place, its subject, and whether a file can hold it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from sequor.core.camera import Array
from sequor.core.frame.constraints import FrameConstraints, NoFrameError
from sequor.core.frame.cost import Cost, CutOff, cost, cut_off
from sequor.core.frame.largest import holds, largest, largest_of_any_ratio
from sequor.core.frame.ratio import agrees_with_ratio, parse_ratio
from sequor.core.rectangle import Rectangle
from sequor.core.warp.base import Warp
from sequor.pipeline.stage import Stage
from sequor.pipeline.warp import Bend
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError

SUBJECT_POINTS = 5
"""Points along each side of a subject's box by which its place in the corrected picture is found."""

WHOLE = 1.0
"""Corrected pixels that a frame may have lost in rounding to whole pixels and still holds its subject."""

LONGEST_SIDE = 65_500
"""Pixels on a side that a JPEG can hold (ITU-T T.81, annex B: 16 bits)."""

MOST_PIXELS = 200_000_000
"""Twice the largest photo that is taken in: what a child that writes a file has memory for."""


def ratio_of(recipe: Recipe) -> tuple[float, float] | None:
    """The frame's ratio width : height; None when it is free."""
    ratio = recipe.frame.ratio
    if ratio == "original":
        return recipe.photo.width, recipe.photo.height
    return None if ratio == "free" else parse_ratio(ratio)


def subject_on(warp: Warp, mark: tuple[float, ...]) -> Rectangle | None:
    """The upright rectangle about a mark on the photo in corrected pixels; None where the map cuts it."""
    x, y, *size = mark
    width, height = size or (0.0, 0.0)
    share = np.linspace(0, 1, SUBJECT_POINTS if width else 1)
    u, v = np.meshgrid(x + share * width, y + share * height)
    points = warp.to_corrected(np.column_stack([u.ravel(), v.ravel()]))
    return Rectangle.between(points) if np.all(np.isfinite(points)) else None


def photo_middle(warp: Warp) -> Array:
    """The photo's centre, (2,) in corrected pixels: it keeps its coordinates."""
    return np.array([warp.width / 2, warp.height / 2])


def largest_frame(
    warp: Warp, ratio: tuple[float, float] | None, around: Rectangle | None = None
) -> Rectangle:
    """The largest frame of a ratio, or of any, about what it must hold, exact. Raises NoFrameError."""
    outline, middle = warp.outline(), photo_middle(warp)
    if ratio is None:
        return largest_of_any_ratio(outline, middle, around)
    return largest(outline, *ratio, middle, FrameConstraints(around))


@dataclass(frozen=True)
class Framed:
    """The frame, and what it costs."""

    frame: Rectangle
    cost: Cost


class Crop(Stage[Framed]):
    """The frame that a recipe asks for under its warp: as it was drawn, or the largest."""

    reads = ("photo.width", "photo.height", "frame.ratio", "frame.rect", "frame.allow_empty")
    after = (Bend,)

    def run(self, recipe: Recipe, *upstream: Any) -> Framed:
        warp = upstream[0].warp
        ratio, part = ratio_of(recipe), recipe.frame
        if part.rect is None:
            try:
                exact = largest_frame(warp, ratio)
            except NoFrameError:
                raise RecipeError(
                    "no frame fits into what is left of the picture; correct less", "correction"
                ) from None
            frame = exact.inwards()
            refuse_too_large(frame)
            # Kept is the share in the exact rectangle: rounding to whole pixels is not a choice that costs.
            return Framed(frame, cost(exact, warp))
        rectangle = Rectangle(*part.rect)
        size = f"the frame of {rectangle.width:g} x {rectangle.height:g} pixels"
        if ratio is not None and not agrees_with_ratio(part.rect[2], part.rect[3], ratio):
            raise RecipeError(
                f"{size} disagrees with the ratio {ratio[0]:g}:{ratio[1]:g}; change it or set rect to null",
                "frame.rect",
            )
        if not part.allow_empty and not holds(warp.outline(), rectangle):
            raise RecipeError(
                "the frame covers empty area; move it inside, set rect to null, or set allow_empty to true",
                "frame.rect",
            )
        costs = cost(rectangle, warp)
        if costs.kept == 0:
            raise RecipeError(f"{size} shows nothing of the photo; move it onto the photo", "frame.rect")
        refuse_too_large(rectangle)
        return Framed(rectangle, costs)

    def settles(self, result: Framed) -> Any:
        # Under a millionth of a pixel nothing shows.
        frame = result.frame
        return [round(value, 6) for value in (frame.x, frame.y, frame.width, frame.height)]


class CutOffs(Stage[CutOff]):
    """What the frame cuts off on each side."""

    after = (Bend, Crop)

    def run(self, recipe: Recipe, *upstream: Any) -> CutOff:
        bent, framed = upstream
        return cut_off(framed.frame, bent.warp)


class Mark(Stage[Rectangle | None]):
    """The subject mark in corrected pixels; a point has no size. None without one, or where it is cut."""

    reads = ("frame.subject",)
    after = (Bend,)

    def run(self, recipe: Recipe, *upstream: Any) -> Rectangle | None:
        mark = recipe.frame.subject
        return None if mark is None else subject_on(upstream[0].warp, mark)


def refuse_too_large(frame: Rectangle) -> None:
    """Raise RecipeError for a frame that no file can hold."""
    width, height = round(frame.width), round(frame.height)
    if max(width, height) > LONGEST_SIDE or width * height > MOST_PIXELS:
        raise RecipeError(
            f"a frame of {width} x {height} pixels is too large to be written; make it smaller", "frame.rect"
        )


def with_size_of(recipe: Recipe, frame: Rectangle) -> Recipe:
    """The recipe with a typed size of the file in the ratio that the frame has; its width stays."""
    size = recipe.export.size
    if not isinstance(size, tuple):
        return recipe
    height = max(1, round(size[0] * frame.height / frame.width))
    if abs(height - size[1]) <= 1:
        return recipe
    return evolve(recipe, export=evolve(recipe.export, size=(size[0], height)))
