"""Lines in a frame that a picture is composed by, as shares of its width and height."""

from __future__ import annotations

from typing import Literal

import numpy as np

from sequor.core.camera import Array
from sequor.core.frame.ratio import GOLDEN

Family = Literal["thirds", "fifths", "golden", "centre"]

SHARES: dict[Family, tuple[float, ...]] = {
    "thirds": (1 / 3, 2 / 3),
    "fifths": (1 / 5, 2 / 5, 3 / 5, 4 / 5),
    "golden": (1 - 1 / GOLDEN, 1 / GOLDEN),
    "centre": (1 / 2,),
}
"""Shares of the lines of each family, the same across and down."""

ARCS = 10
POINTS_PER_ARC = 16


def golden_spiral() -> Array:
    """Quarter circles in the squares that are cut off a golden rectangle one after another, each in what the
    last left; (N, 2) in the unit square, from the lower left corner inwards.

    Its squares' sides are to each other as the whole to its greater part (Euclid, *Elements* VI, def. 3). In
    a frame of another ratio it is stretched with the frame.
    """
    points = []
    left, top, right, bottom = 0.0, 0.0, GOLDEN, 1.0
    quarter = np.linspace(0, np.pi / 2, POINTS_PER_ARC)
    for number in range(ARCS):
        side = min(right - left, bottom - top)
        if number % 4 == 0:
            centre, begin = (left + side, top + side), np.pi
            left += side
        elif number % 4 == 1:
            centre, begin = (right - side, top + side), 1.5 * np.pi
            top += side
        elif number % 4 == 2:
            centre, begin = (right - side, bottom - side), 0.0
            right -= side
        else:
            centre, begin = (left + side, bottom - side), 0.5 * np.pi
            bottom -= side
        angle = begin + quarter
        points.append(np.column_stack([centre[0] + side * np.cos(angle), centre[1] + side * np.sin(angle)]))
    spiral: Array = np.concatenate(points) / [GOLDEN, 1.0]
    return spiral
