"""A rectangle that stands upright and square in the world: a window, a door."""

from __future__ import annotations

import math

import numpy as np

from sequor.core.camera import Array
from sequor.core.references.base import LEVEL, PLUMB, Points, ReferenceKind

LEAST_BOX = 40.0
"""Photo pixels by which a level or upright line becomes a box that can be pulled."""


class Rectangle(ReferenceKind):
    name = "rectangle"
    becomes = "level"
    fewest_points = 4
    directions = (LEVEL, PLUMB, LEVEL, PLUMB)
    joined = True
    shaped = True

    def refusal(self, points: Points) -> str | None:
        if len(points) < self.fewest_points:
            return super().refusal(points)
        if len(points) != self.fewest_points:
            return "a rectangle has four corners"
        if not runs_clockwise(points):
            return "a rectangle's corners run clockwise from its top left, and none of them points inwards"
        return None

    def laid(self, points: Points) -> Points:
        return clockwise(points) if len(points) == self.fewest_points else points

    def taken_over(self, points: Points, joined: bool) -> Points:
        """Four points become its corners; others a box from the first to the last, never without width."""
        if len(points) == self.fewest_points:
            return clockwise(points)
        (left, top), (right, bottom) = points[0], points[-1]
        right += (right == left) * LEAST_BOX
        bottom += (bottom == top) * LEAST_BOX
        return clockwise([(left, top), (right, top), (right, bottom), (left, bottom)])

    def sides(self, points: Array) -> Array:
        """Its top, right, bottom and left (4, 2, 2)."""
        return np.stack([points, np.roll(points, -1, axis=0)], axis=1)

    def turned(self, points: Points) -> Points:
        return from_top_left(points)


def runs_clockwise(corners: Points) -> bool:
    """Whether four corners, y down, turn right at each of them."""
    for index, (x, y) in enumerate(corners):
        before, after = corners[index - 1], corners[(index + 1) % 4]
        if (x - before[0]) * (after[1] - y) - (y - before[1]) * (after[0] - x) <= 0:
            return False
    return True


def from_top_left(corners: Points) -> Points:
    """Four corners in clockwise order, beginning with the top left one."""
    first = min(range(4), key=lambda index: sum(corners[index]))
    return corners[first:] + corners[:first]


def clockwise(corners: Points) -> Points:
    """Four corners clockwise, y down, from the top left one, in whatever order they are.

    >>> clockwise([(90.0, 10.0), (10.0, 12.0), (12.0, 70.0), (88.0, 72.0)])
    [(10.0, 12.0), (90.0, 10.0), (88.0, 72.0), (12.0, 70.0)]
    """
    x, y = (sum(values) / len(corners) for values in zip(*corners, strict=True))
    return from_top_left(sorted(corners, key=lambda corner: math.atan2(corner[1] - y, corner[0] - x)))
