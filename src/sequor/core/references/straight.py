"""A thing that is straight in the world, of whatever direction: it tells how the lens bends."""

from __future__ import annotations

import numpy as np

from sequor.core.camera import Array
from sequor.core.references.base import Points, ReferenceKind
from sequor.core.references.line import bend


class Straight(ReferenceKind):
    name = "straight"
    fewest_points = 3
    tells_lens = True

    def taken_over(self, points: Points, joined: bool) -> Points:
        """Two ends get a middle to be pulled; of a rectangle it is a diagonal."""
        if len(points) > 2 and not joined:
            return points
        (ax, ay), (bx, by) = points[0], points[2] if joined else points[-1]
        return [(ax, ay), ((ax + bx) / 2, (ay + by) / 2), (bx, by)]

    def standing(
        self, side: int, carried: Array, along: Array, positions: Array, towards: Array | None
    ) -> tuple[float, float]:
        """The angle under which it bows, and by how many pixels."""
        bowed = bend(carried)
        return float(np.rad2deg(np.arctan2(2 * bowed, np.ptp(positions)))), bowed
