"""Where touch-ups and donors lie in a frame, and how far about a touch-up is looked for what fills it."""

from __future__ import annotations

from functools import cached_property

import numpy as np
import shapely
import shapely.geometry.base

from sequor.core.fill.areas import Area, Box
from sequor.pipeline.evaluate import Evaluation
from sequor.recipe.model import AreaPart

LOOK_AT_LEAST = 160
"""Pixels about a touch-up from which it may be filled, at least;"""
LOOK = 1.5
"""else so many times its own longer side."""

STEP = 16
"""Windows begin at such columns: so they hold just the pixels that the whole frame has there."""


def area_of(evaluation: Evaluation, part: AreaPart) -> Area:
    """An area of the recipe in the frame's pixels."""
    area = Area(tuple(part.points), part.radius)
    return area.moved(-evaluation.frame.x, -evaluation.frame.y)


def frame_size(evaluation: Evaluation) -> tuple[int, int]:
    """Width and height of the frame in pixels."""
    return round(evaluation.frame.width), round(evaluation.frame.height)


class Placed:
    """Where the touch-ups and donors of an evaluation lie in its frame; each is looked at once."""

    def __init__(self, evaluation: Evaluation) -> None:
        self._evaluation = evaluation
        edges = evaluation.recipe.edges
        self._parts = edges.touch_ups
        self._reaches = [_box(evaluation, part, part.feather + 2) for part in self._parts]
        donors = [_box(evaluation, one, 8) for one in edges.donors if one.kind == "from here"]
        self._donors = [box for box in donors if box is not None]
        self._windows = [own and self._window(own) for own in self._reaches]

    def reach(self, index: int) -> Box | None:
        """The box [x, y, width, height] in the frame's pixels that a touch-up may change; None beside it."""
        return self._reaches[index]

    def window(self, index: int) -> Box | None:
        """The box within which is looked for what fills a touch-up: about it, and over donors that were
        named. None when it lies beside the frame."""
        return self._windows[index]

    def _window(self, own: Box) -> Box:
        around = max(LOOK_AT_LEAST, round(LOOK * max(own[2:])))
        boxes = [_grown(own, around, self._evaluation), *self._donors]
        left, top = min(box[0] for box in boxes) // STEP * STEP, min(box[1] for box in boxes)
        right, bottom = max(box[0] + box[2] for box in boxes), max(box[1] + box[3] for box in boxes)
        return left, top, right - left, bottom - top

    def beneath(self, index: int) -> list[int]:
        """The active touch-ups before one that reach into its window."""
        where = self.window(index)
        if where is None:
            return []
        before = zip(range(index), self._parts, self._reaches, strict=False)
        return [at for at, part, own in before if part.active and own is not None and _meet(where, own)]

    def all_photo(self, box: Box) -> bool:
        """Whether the photo shows in all of a box of the frame, with room to spare."""
        x, y, width, height = box
        left, top = self._evaluation.frame.x + x, self._evaluation.frame.y + y
        return bool(self._outline.contains(shapely.box(left, top, left + width, top + height)))

    @cached_property
    def _outline(self) -> shapely.geometry.base.BaseGeometry:
        outline = shapely.make_valid(shapely.Polygon(self._evaluation.mapping.outline())).buffer(0.01)
        shapely.prepare(outline)
        return outline


def _box(evaluation: Evaluation, part: AreaPart, more: float) -> Box | None:
    points = np.array(part.points) - [evaluation.frame.x, evaluation.frame.y]
    by = (part.radius or 0.0) + more
    low, high = np.floor(points.min(axis=0) - by), np.ceil(points.max(axis=0) + by)
    box = (int(low[0]), int(low[1]), int(high[0] - low[0]), int(high[1] - low[1]))
    return _clipped(box, evaluation)


def _grown(box: Box, by: int, evaluation: Evaluation) -> Box:
    x, y, width, height = box
    grown = _clipped((x - by, y - by, width + 2 * by, height + 2 * by), evaluation)
    assert grown is not None
    return grown


def _clipped(box: Box, evaluation: Evaluation) -> Box | None:
    x, y, width, height = box
    wide, high = frame_size(evaluation)
    left, top, right, bottom = max(x, 0), max(y, 0), min(x + width, wide), min(y + height, high)
    return (left, top, right - left, bottom - top) if right > left and bottom > top else None


def _meet(one: Box, other: Box) -> bool:
    return (
        one[0] < other[0] + other[2]
        and other[0] < one[0] + one[2]
        and one[1] < other[1] + other[3]
        and other[1] < one[1] + one[3]
    )
