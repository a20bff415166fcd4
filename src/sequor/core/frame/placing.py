"""Placing: the frame moves and, if it must, shrinks until a thing falls on a line of it.

The thing is a point of the corrected picture, or only its x or its y: the middle of a subject, a level line,
the middle between two plumb lines. The line is a share of the frame's width or height. When it cannot be done
the frame goes as near as it can without shrinking, and what is in the way is named.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely

from sequor.core.camera import Array
from sequor.core.frame.constraints import FrameConstraints, NoFrameError
from sequor.core.frame.largest import largest
from sequor.core.rectangle import Rectangle
from sequor.core.warp.base import Warp

Obstacle = Literal["top", "right", "bottom", "left", "cut", "subject", "beyond", "narrow"]
"""What is in the way: a side of the photo; where it is cut; that the subject must stay inside; that the thing
lies beyond the picture; that a frame of this ratio cannot hold the subject at all."""

SMALLEST_SIDE = 16.0
"""Corrected pixels under which no side of a frame is made to shrink."""

TOUCHES = 0.5
"""Corrected pixels within which the frame counts as touching the edge of the picture."""

HALVINGS = 40

NEARLY = 0.95
"""A frame that only moves the way it is asked may be so much smaller than one that also moves aside: a little
size gained is not worth another composition."""


@dataclass(frozen=True)
class Target:
    """Where a thing is to fall: (x, share of the width) and (y, share of the height), either may be None."""

    across: tuple[float, float] | None = None
    down: tuple[float, float] | None = None

    def constraints(self, around: Rectangle | None, at_most: float) -> FrameConstraints:
        """The same as a wish for a rectangle."""
        return FrameConstraints(around, self.across, self.down, at_most)

    def held(self, frame: Rectangle) -> Target:
        """The same where nothing else is to move: what is not asked keeps the centre that the frame has."""
        x, y = (float(value) for value in frame.centre)
        return Target(self.across or (x, 0.5), self.down or (y, 0.5))

    def centre_for(self, frame: Rectangle) -> tuple[float | None, float | None]:
        """Where the centre of a frame of this size must lie; None where nothing is asked."""
        across, down = self.across, self.down
        return (
            None if across is None else across[0] - (across[1] - 0.5) * frame.width,
            None if down is None else down[0] - (down[1] - 0.5) * frame.height,
        )

    def missed_by(self, frame: Rectangle) -> float:
        """How far the lines of a frame lie from the things, in corrected pixels."""
        right = 0.0 if self.across is None else self.across[0] - frame.x - self.across[1] * frame.width
        low = 0.0 if self.down is None else self.down[0] - frame.y - self.down[1] * frame.height
        return float(np.hypot(right, low))


@dataclass(frozen=True)
class Placed:
    """The frame after placing, exact. ``scale``: its size in units of that before. ``missed_by``: corrected
    pixels that are still missing, 0 when it could be done. ``obstacles``: what made it shrink or stop."""

    frame: Rectangle
    scale: float
    missed_by: float
    obstacles: tuple[Obstacle, ...]


def place(
    warp: Warp, frame: Rectangle, target: Target, around: Rectangle | None, allow_empty: bool = False
) -> Placed:
    """The frame, no larger than it is, with the target met, ``around`` held and no empty corner.

    Where empty corners are allowed, only ``around`` and the smallest size limit it. Raises NoFrameError when
    not even a frame elsewhere could hold ``around``.
    """
    outline = _endless(frame, warp) if allow_empty else warp.outline()
    found = _fitted(outline, frame, target, around)
    if found is not None:
        straight = _fitted(outline, frame, target.held(frame), around)
        if straight is not None and straight.width >= NEARLY * found.width:
            found = straight
        scale = found.width / frame.width
        return Placed(found, scale, 0.0, () if scale > 1 - 1e-6 else _touched(warp, outline, found))
    why = _why_not(outline, frame, target, around)
    nearest = _nearest(outline, frame, target, around)
    obstacles = (why,) if why else _touched(warp, outline, nearest)
    return Placed(nearest, nearest.width / frame.width, target.missed_by(nearest), obstacles)


def _endless(frame: Rectangle, warp: Warp) -> Array:
    """An outline so wide that it is never in the way."""
    everything = Rectangle.between(np.vstack([warp.outline(), [frame.at(0, 0), frame.at(1, 1)]]))
    far = 2 * max(everything.width, everything.height)
    left, top = everything.at(0, 0) - far
    right, bottom = everything.at(1, 1) + far
    return np.array([[left, top], [right, top], [right, bottom], [left, bottom]])


def _fitted(outline: Array, frame: Rectangle, target: Target, around: Rectangle | None) -> Rectangle | None:
    """The largest frame that meets the target; None when there is none of a size worth having."""
    try:
        found = largest(outline, frame.width, frame.height, frame.centre, target.constraints(around, 1.0))
    except NoFrameError:
        return None
    smallest = min(SMALLEST_SIDE, frame.width, frame.height)
    return found if min(found.width, found.height) >= smallest else None


def _nearest(outline: Array, frame: Rectangle, target: Target, around: Rectangle | None) -> Rectangle:
    """The frame as large as it can be that comes nearest to the target, on the way there."""
    begin = largest(outline, frame.width, frame.height, frame.centre, FrameConstraints(around, at_most=1.0))
    goal = target.centre_for(begin)
    best, open_, closed = begin, 0.0, 1.0
    for _ in range(HALVINGS):
        middle = (open_ + closed) / 2
        across, down = (
            None if to is None else (float(now + middle * (to - now)), 0.5)
            for now, to in zip(begin.centre, goal, strict=True)
        )
        constraints = FrameConstraints(around, across, down, at_most=1.0)
        try:
            found = largest(outline, begin.width, begin.height, begin.centre, constraints)
        except NoFrameError:
            found = None
        if found is None or found.width < begin.width * (1 - 1e-6):
            closed = middle
        else:
            best, open_ = found, middle
    return best


def _why_not(outline: Array, frame: Rectangle, target: Target, around: Rectangle | None) -> Obstacle | None:
    """The reason that is not a side of the picture, if there is one."""
    region = shapely.make_valid(shapely.Polygon(outline))
    left, top, right, bottom = region.bounds
    point = (
        (left + right) / 2 if target.across is None else target.across[0],
        (top + bottom) / 2 if target.down is None else target.down[0],
    )
    whole = target.across is not None and target.down is not None
    if not (left < point[0] < right and top < point[1] < bottom):
        return "beyond"
    if whole and not region.contains(shapely.Point(point)):
        return "beyond"
    if around is not None and _fitted(outline, frame, target, None) is not None:
        return "subject"
    return None


def _touched(warp: Warp, outline: Array, frame: Rectangle) -> tuple[Obstacle, ...]:
    """The sides of the photo that a frame lies against, in the order top, right, bottom, left, cut."""
    edges = shapely.linestrings(np.stack([outline, np.roll(outline, -1, axis=0)], axis=1))
    inside = shapely.box(frame.x, frame.y, frame.right, frame.bottom)
    touching = shapely.distance(edges, inside) <= TOUCHES
    middles = (outline + np.roll(outline, -1, axis=0))[touching] / 2
    if not len(middles):
        return ()
    on_photo = warp.to_photo(middles)
    from_sides = np.abs(
        np.column_stack(
            [on_photo[:, 1], warp.width - on_photo[:, 0], warp.height - on_photo[:, 1], on_photo[:, 0]]
        )
    )
    names: tuple[Obstacle, ...] = ("top", "right", "bottom", "left", "cut")
    near = np.where(from_sides.min(axis=1) <= 1.0, from_sides.argmin(axis=1), 4)
    return tuple(names[index] for index in sorted(set(near.tolist())))
