"""Where touch-ups lie in a frame, how far about each is looked for what fills it, what it was made for."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import shapely

from sequor.core.camera import Array, Indices
from sequor.core.fill.areas import Box, Mask
from sequor.core.rectangle import Rectangle
from sequor.core.warp.base import Warp
from sequor.pipeline.edges.registry import mode_of
from sequor.pipeline.fingerprint import digest, settled, told
from sequor.pipeline.frame import Crop, Framed
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

NO_AREA = 1e-6
"""Square pixels: so little is a rounding."""

STEP = 16
"""Windows begin at such columns: so they hold just the pixels that the whole frame has there."""


def frame_size(frame: Rectangle) -> tuple[int, int]:
    """Width and height of a frame in pixels."""
    return round(frame.width), round(frame.height)


@dataclass(frozen=True, eq=False)
class Shapes:
    """The touch-ups of a recipe as they are, wherever its frame lies.

    ``own``: hashes of what each itself depends on, as ``told``; ``earlier``: of what it is to another that
    lies on it, with how much of it shows and its seed. ``reaches`` (N, 4): left, top, right, bottom in
    corrected pixels of what each may change; ``named`` (M, 4) of the donors that are to be copied from.
    """

    own: list[bytes]
    earlier: list[bytes]
    reaches: Array
    named: Array


class Shape(Stage[Shapes]):
    """What touch-ups look like; a drag of the picture changes nothing of it."""

    reads = (
        *(f"edges.touch_ups.*.{name}" for name in (*OWN, "amount", "seed", "active")),
        *DONORS,
        "edges.mode",
        "edges.colour",
        "edges.seed",
        "edges.patches.*.part",
        "edges.patches.*.seed",
    )

    def run(self, recipe: Recipe, *upstream: Any) -> Shapes:
        edges = recipe.edges
        own = [digest([part.model_dump_json(include=set(OWN))]) for part in edges.touch_ups]
        earlier = [
            digest([str(part.amount), str(part.seed), text]).encode()
            for part, text in zip(edges.touch_ups, own, strict=True)
        ]
        reaches = [_bounds(part, part.feather + 2) for part in edges.touch_ups]
        named = [_bounds(one, 8) for one in edges.donors if one.kind == "from here"]
        return Shapes(
            [told([text]) for text in own], earlier, np.reshape(reaches, (-1, 4)), np.reshape(named, (-1, 4))
        )


class Placed:
    """Where the touch-ups and donors of a recipe lie in its frame; all are looked at together, once."""

    def __init__(self, shapes: Shapes, edges: EdgesPart, framed: Framed, warp: Warp) -> None:
        frame = framed.frame
        self._frame, self._warp = frame, warp
        width, height = frame_size(frame)
        whole = width <= frame.width and height <= frame.height
        self._nothing_empty = whole and framed.cost.empty * frame.width * frame.height < NO_AREA
        size = np.array([width, height])
        own, inside = _within(shapes.reaches, frame, size)
        longer = np.maximum(own[:, 2] - own[:, 0], own[:, 3] - own[:, 1])
        around = np.maximum(LOOK_AT_LEAST, np.round(LOOK * longer)).astype(np.int64)[:, None]
        look = np.hstack([np.maximum(own[:, :2] - around, 0), np.minimum(own[:, 2:] + around, size)])
        if len(shapes.named):
            donors, meets = _within(shapes.named, frame, size)
            low, high = donors[meets, :2], donors[meets, 2:]
            look[:, :2] = np.minimum(look[:, :2], low.min(axis=0, initial=max(width, height)))
            look[:, 2:] = np.maximum(look[:, 2:], high.max(axis=0, initial=0))
        look[:, 0] = look[:, 0] // STEP * STEP
        active = np.array([part.active for part in edges.touch_ups], np.bool_) & inside
        (left, top, right, bottom), (x, y, x_end, y_end) = look.T[:, :, None], own.T[:, None, :]
        overlap = (left < x_end) & (x < right) & (top < y_end) & (y < bottom)
        rows, below = np.nonzero(np.tril(overlap & active[None], -1))
        self._below, self._begin = below.tolist(), np.searchsorted(rows, np.arange(len(own) + 1)).tolist()
        self._own, self._look, self._inside = own, look, inside.tolist()

    def inside(self, index: int) -> bool:
        """Whether a touch-up lies in the frame."""
        return bool(self._inside[index])

    def reach(self, index: int) -> Box | None:
        """The box [x, y, width, height] in the frame's pixels that a touch-up may change; None beside it."""
        return _box(self._own[index]) if self.inside(index) else None

    def window(self, index: int) -> Box | None:
        """The box within which is looked for what fills a touch-up: about it, and over donors that were
        named. None when it lies beside the frame."""
        return _box(self._look[index]) if self.inside(index) else None

    def beneath(self, index: int) -> list[int]:
        """The active touch-ups before one that reach into its window."""
        if not self.inside(index):
            return []
        return self._below[self._begin[index] : self._begin[index + 1]]

    def all_photo(self, index: int) -> bool:
        """Whether the photo shows in all of a touch-up's window, with room to spare."""
        return self._all_photo[index]

    @cached_property
    def _all_photo(self) -> list[bool]:
        if self._nothing_empty:
            return [True] * len(self._look)
        outline = shapely.make_valid(shapely.Polygon(self._warp.outline())).buffer(0.01)
        shapely.prepare(outline)
        left, top, right, bottom = (self._look + np.tile([self._frame.x, self._frame.y], 2)).T
        boxes = shapely.box(left, top, right, bottom)
        return [bool(one) for one in shapely.contains(outline, boxes)]


class Retouch(Stage[Placed]):
    """The touch-ups in the frame, over what lies beneath them."""

    after = (Shape, Bend, Crop)

    def run(self, recipe: Recipe, *upstream: Any) -> Placed:
        shapes, warped, framed = upstream
        return Placed(shapes, recipe.edges, framed, warped.warp)


def prints(edges: EdgesPart, shapes: Shapes, placed: Placed, ground: str, corners: str) -> dict[str, str]:
    """What the takes of each active touch-up are made for, by its id.

    ``ground`` and ``corners`` are the fingerprints of the stages Ground and Fill. What a touch-up lies on
    counts too, as far as it looks. What several rest on is written down once: fifty cost little more than
    one.
    """
    donors = settled([one.model_dump(include={"kind", "points", "radius"}) for one in edges.donors])
    beneath = settled([edges.mode, edges.colour])
    if mode_of(edges).makes_pixels:
        chosen = {patch.part: patch.seed for patch in edges.patches if not patch.part.startswith(TOUCH_UP)}
        others = {part: seed for part, seed in sorted(chosen.items()) if seed != edges.seed}
        beneath = settled([edges.mode, corners, edges.seed, others])
    start, nothing = told([ground]), told([""])
    from_donors, over = told([donors]), told([beneath])
    found = {}
    for index, part in enumerate(edges.touch_ups):
        if not part.active:
            continue
        below = b"".join([shapes.earlier[before] for before in placed.beneath(index)])
        sources = nothing if part.hint else from_donors
        under = nothing if not placed.inside(index) or placed.all_photo(index) else over
        rests_on = (start, shapes.own[index], sources, under, b"%d:" % len(below), below)
        found[part.id] = hashlib.sha256(b"".join(rests_on)).hexdigest()
    return found


def _bounds(part: AreaPart, more: float) -> Array:
    """Left, top, right and bottom of an area and ``more`` around it, in corrected pixels."""
    points, by = np.array(part.points), (part.radius or 0.0) + more
    return np.concatenate([points.min(axis=0) - by, points.max(axis=0) + by])


def _within(bounds: Array, frame: Rectangle, size: Indices) -> tuple[Indices, Mask]:
    """Whole-pixel boxes (N, 4) of some bounds in the frame, clipped to its size, and which are in it."""
    there = bounds - np.tile([frame.x, frame.y], 2)
    low = np.maximum(np.floor(there[:, :2]), 0).astype(np.int64)
    high = np.minimum(np.ceil(there[:, 2:]), size).astype(np.int64)
    return np.hstack([low, high]), np.all(high > low, axis=1)


def _box(sides: Indices) -> Box:
    left, top, right, bottom = (int(side) for side in sides)
    return left, top, right - left, bottom - top
