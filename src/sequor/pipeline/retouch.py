"""Where touch-ups lie in a frame, how far about each is looked for what fills it, what it was made for."""

from __future__ import annotations

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


@dataclass(frozen=True, eq=False)
class Shapes:
    """The touch-ups of a recipe as they are, wherever its frame lies.

    ``own``: hashes of what each itself depends on; ``earlier``: of what it is to another that lies on it,
    with how much of it shows and its seed. ``reaches`` (N, 4): left, top, right, bottom in corrected pixels
    of what each may change; ``named`` (M, 4) of the donors that are to be copied from.
    """

    own: list[str]
    earlier: list[str]
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
            digest([str(part.amount), str(part.seed), text])
            for part, text in zip(edges.touch_ups, own, strict=True)
        ]
        reaches = [_bounds(part, part.feather + 2) for part in edges.touch_ups]
        named = [_bounds(one, 8) for one in edges.donors if one.kind == "from here"]
        return Shapes(own, earlier, np.reshape(reaches, (-1, 4)), np.reshape(named, (-1, 4)))


class Placed:
    """Where the touch-ups and donors of a recipe lie in its frame; all are looked at together, once."""

    def __init__(self, shapes: Shapes, edges: EdgesPart, frame: Rectangle, warp: Warp) -> None:
        self._frame, self._warp = frame, warp
        size = np.array(frame_size(frame))
        own, inside = _within(shapes.reaches, frame, size)
        donors, meets = _within(shapes.named, frame, size)
        longer = np.maximum(own[:, 2] - own[:, 0], own[:, 3] - own[:, 1])
        around = np.maximum(LOOK_AT_LEAST, np.round(LOOK * longer)).astype(np.int64)[:, None]
        look = np.hstack([np.maximum(own[:, :2] - around, 0), np.minimum(own[:, 2:] + around, size)])
        if np.any(meets):
            look[:, :2] = np.minimum(look[:, :2], donors[meets, :2].min(axis=0))
            look[:, 2:] = np.maximum(look[:, 2:], donors[meets, 2:].max(axis=0))
        look[:, 0] = look[:, 0] // STEP * STEP
        self._reaches = [_box(one) if there else None for one, there in zip(own, inside, strict=True)]
        self._windows = [_box(one) if there else None for one, there in zip(look, inside, strict=True)]
        active = np.array([part.active for part in edges.touch_ups], np.bool_) & inside
        overlap = np.all(
            (look[:, None, :2] < own[None, :, 2:]) & (own[None, :, :2] < look[:, None, 2:]), axis=2
        )
        self._below = [np.flatnonzero(row).tolist() for row in np.tril(overlap & active[None], -1)]
        self._look = look

    def reach(self, index: int) -> Box | None:
        """The box [x, y, width, height] in the frame's pixels that a touch-up may change; None beside it."""
        return self._reaches[index]

    def window(self, index: int) -> Box | None:
        """The box within which is looked for what fills a touch-up: about it, and over donors that were
        named. None when it lies beside the frame."""
        return self._windows[index]

    def beneath(self, index: int) -> list[int]:
        """The active touch-ups before one that reach into its window."""
        if self._windows[index] is None:
            return []
        return self._below[index]

    def all_photo(self, index: int) -> bool:
        """Whether the photo shows in all of a touch-up's window, with room to spare."""
        return bool(self._all_photo[index])

    @cached_property
    def _all_photo(self) -> Mask:
        outline = shapely.make_valid(shapely.Polygon(self._warp.outline())).buffer(0.01)
        shapely.prepare(outline)
        left, top, right, bottom = (self._look + np.tile([self._frame.x, self._frame.y], 2)).T
        return np.asarray(shapely.contains(outline, shapely.box(left, top, right, bottom)), np.bool_)


class Retouch(Stage[Placed]):
    """The touch-ups in the frame, over what lies beneath them."""

    after = (Shape, Bend, Crop)

    def run(self, recipe: Recipe, *upstream: Any) -> Placed:
        shapes, warped, framed = upstream
        return Placed(shapes, recipe.edges, framed.frame, warped.warp)


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
    found = {}
    for index, part in enumerate(edges.touch_ups):
        if not part.active:
            continue
        under = "" if placed.window(index) is None or placed.all_photo(index) else beneath
        below = "".join([shapes.earlier[before] for before in placed.beneath(index)])
        sources = "" if part.hint else donors
        found[part.id] = digest([ground, shapes.own[index], sources, under, below])
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
