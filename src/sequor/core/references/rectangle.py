"""A rectangle that stands upright and square in the world: a window, a door."""

from __future__ import annotations

import numpy as np

from sequor.core.camera import Array
from sequor.core.references.base import LEVEL, PLUMB, Points, ReferenceKind


class Rectangle(ReferenceKind):
    name = "rectangle"
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
