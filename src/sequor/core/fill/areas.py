"""Areas that were brushed or drawn around, as masks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Mask = NDArray[np.bool_]
Box = tuple[int, int, int, int]
"""x, y, width, height."""

FINE_BITS = 4
FINE = 1 << FINE_BITS
"""OpenCV draws in so many steps a pixel."""


@dataclass(frozen=True)
class Area:
    """What is brushed along ``points`` with ``radius``, or, without one, what lies within them; in pixels of
    the picture that it lies on, (0, 0) at the outer corner of its first pixel."""

    points: tuple[tuple[float, float], ...]
    radius: float | None

    def moved(self, across: float, down: float) -> Area:
        """The same, moved."""
        return Area(tuple((x + across, y + down) for x, y in self.points), self.radius)

    def mask(self, width: int, height: int) -> Mask:
        """The pixels of a picture of this size whose middles it covers, to a pixel."""
        drawn = np.zeros((height, width), np.uint8)
        # OpenCV counts from pixel centres.
        points = np.round((np.array(self.points) - 0.5) * FINE).astype(np.int32)
        if self.radius is None:
            cv2.fillPoly(drawn, [points], 1, cv2.LINE_8, FINE_BITS)
        else:
            _brush(drawn, np.array(self.points), self.radius)
        return drawn > 0


def _brush(drawn: NDArray[np.uint8], points: NDArray[np.float64], radius: float) -> None:
    """Draw along points in place."""
    wide = max(1, round(2 * radius))
    fixed = np.round((points - 0.5) * FINE).astype(np.int32)
    if len(points) > 1:
        cv2.polylines(drawn, [fixed], False, 1, wide, cv2.LINE_8, FINE_BITS)
    for x, y in fixed:
        cv2.circle(drawn, (int(x), int(y)), round(radius * FINE), 1, cv2.FILLED, cv2.LINE_8, FINE_BITS)


def feathered(inside: Mask, feather: float) -> NDArray[np.uint8]:
    """How much of each pixel an area replaces, 0 to 255: all within it, less and less over ``feather`` pixels
    around it."""
    alpha = np.where(inside, 255, 0).astype(np.uint8)
    if feather > 0 and inside.any():
        away = cv2.distanceTransform((~inside).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
        share = np.clip(1 - away / (feather + 1), 0, 1)
        alpha = np.maximum(alpha, np.asarray(255 * share + 0.5, np.uint8))
    return alpha


def box_of(mask: NDArray[np.generic]) -> Box | None:
    """The box of what is set in a mask; None when nothing is."""
    rows = np.nonzero(mask.any(axis=1))[0]
    if not len(rows):
        return None
    top, high = int(rows[0]), int(np.ptp(rows)) + 1
    columns = np.nonzero(mask[top : top + high].any(axis=0))[0]
    return int(columns[0]), top, int(np.ptp(columns)) + 1, high


def barred(donors: Sequence[tuple[bool, Area]], width: int, height: int) -> Mask | None:
    """What must not be copied in a picture of this size: areas that were barred (False), and all beside those
    that were named (True). None without areas."""
    if not donors:
        return None
    named = [area.mask(width, height) for wanted, area in donors if wanted]
    out = ~np.logical_or.reduce(named) if named else np.zeros((height, width), np.bool_)
    for wanted, area in donors:
        if not wanted:
            out |= area.mask(width, height)
    return np.asarray(out)
