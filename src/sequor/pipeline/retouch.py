"""Where touch-ups lie in a frame, how far about each is looked for what fills it, what it was made for."""

from __future__ import annotations

from functools import cached_property
from typing import Any

import numpy as np
import shapely
import shapely.geometry.base

from sequor.core.fill.areas import Box
from sequor.core.rectangle import Rectangle
from sequor.core.warp.base import Warp
from sequor.pipeline.edges.registry import mode_of
from sequor.pipeline.fingerprint import digest, settled
from sequor.pipeline.frame import Crop
from sequor.pipeline.new_pixels import DONORS, TOUCH_UP
from sequor.pipeline.stage import Stage
from sequor.pipeline.warp import Bend
from sequor.recipe.model import Recipe
from sequor.recipe.model.edges import AreaPart, EdgesPart

OWN = ("id", "points", "radius", "feather", "hint")
"""What of a touch-up itself its pixels depend on; its name is in its patch."""

LOOK_AT_LEAST = 160
"""Pixels about a touch-up from which it may be filled, at least;"""
LOOK = 1.5
"""else so many times its own longer side."""

STEP = 16
"""Windows begin at such columns: so they hold just the pixels that the whole frame has there."""


def frame_size(frame: Rectangle) -> tuple[int, int]:
    """Width and height of a frame in pixels."""
    return round(frame.width), round(frame.height)


class Placed:
    """Where the touch-ups and donors of a recipe lie in its frame; each is looked at once."""

    def __init__(self, edges: EdgesPart, frame: Rectangle, warp: Warp) -> None:
        self._frame, self._warp = frame, warp
        self._parts = edges.touch_ups
        self._reaches = [_box(frame, part, part.feather + 2) for part in self._parts]
        donors = [_box(frame, one, 8) for one in edges.donors if one.kind == "from here"]
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
        boxes = [_grown(own, around, self._frame), *self._donors]
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
        left, top = self._frame.x + x, self._frame.y + y
        return bool(self._outline.contains(shapely.box(left, top, left + width, top + height)))

    @cached_property
    def _outline(self) -> shapely.geometry.base.BaseGeometry:
        outline = shapely.make_valid(shapely.Polygon(self._warp.outline())).buffer(0.01)
        shapely.prepare(outline)
        return outline


class Retouch(Stage[Placed]):
    """The touch-ups over what lies beneath them."""

    reads = (
        *(f"edges.touch_ups.*.{name}" for name in (*OWN, "amount", "seed", "active")),
        *DONORS,
        "edges.mode",
        "edges.colour",
        "edges.seed",
        "edges.patches.*.part",
        "edges.patches.*.seed",
    )
    after = (Bend, Crop)

    def run(self, recipe: Recipe, *upstream: Any) -> Placed:
        return Placed(recipe.edges, upstream[1].frame, upstream[0].warp)


def prints(edges: EdgesPart, placed: Placed, ground: str, corners: str) -> dict[str, str]:
    """What the takes of each active touch-up are made for, by its id.

    ``ground`` and ``corners`` are the fingerprints of the stages Ground and Fill. What a touch-up lies on
    counts too, as far as it looks. What several rest on is written down once: fifty cost little more than
    one.
    """
    own = [part.model_dump_json(include=set(OWN)) for part in edges.touch_ups]
    earlier = [f"{part.amount} {part.seed} {shape}" for part, shape in zip(edges.touch_ups, own, strict=True)]
    donors = settled([one.model_dump(include={"kind", "points", "radius"}) for one in edges.donors])
    mode = mode_of(edges)
    beneath = settled([edges.mode, edges.colour])
    if mode.makes_pixels:
        chosen = {patch.part: patch.seed for patch in edges.patches if not patch.part.startswith(TOUCH_UP)}
        others = {part: seed for part, seed in sorted(chosen.items()) if seed != edges.seed}
        beneath = settled([edges.mode, corners, edges.seed, others])
    found = {}
    for index, part in enumerate(edges.touch_ups):
        if not part.active:
            continue
        window = placed.window(index)
        under = "" if window is None or placed.all_photo(window) else beneath
        below = [earlier[before] for before in placed.beneath(index)]
        found[part.id] = digest([ground, own[index], "" if part.hint else donors, under, *below])
    return found


def _box(frame: Rectangle, part: AreaPart, more: float) -> Box | None:
    points = np.array(part.points) - [frame.x, frame.y]
    by = (part.radius or 0.0) + more
    low, high = np.floor(points.min(axis=0) - by), np.ceil(points.max(axis=0) + by)
    box = (int(low[0]), int(low[1]), int(high[0] - low[0]), int(high[1] - low[1]))
    return _clipped(box, frame)


def _grown(box: Box, by: int, frame: Rectangle) -> Box:
    x, y, width, height = box
    grown = _clipped((x - by, y - by, width + 2 * by, height + 2 * by), frame)
    assert grown is not None
    return grown


def _clipped(box: Box, frame: Rectangle) -> Box | None:
    x, y, width, height = box
    wide, high = frame_size(frame)
    left, top, right, bottom = max(x, 0), max(y, 0), min(x + width, wide), min(y + height, high)
    return (left, top, right - left, bottom - top) if right > left and bottom > top else None


def _meet(one: Box, other: Box) -> bool:
    return (
        one[0] < other[0] + other[2]
        and other[0] < one[0] + one[2]
        and one[1] < other[1] + other[3]
        and other[1] < one[1] + one[3]
    )
