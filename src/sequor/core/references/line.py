"""Lines through points and their readings: what was measured on a picture, and how well.

Slope: in (-90, 90], positive when the right end is lower. Lean of an upright line: in (-90, 90],
positive when the top end is to the right. Both in degrees, in photo pixels (x right, y down).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from sequor.core.camera import Array

SMALLEST_SIGMA_PX = 0.2
"""No end is known better than this, however it was laid (docs/geometry.md)."""


@dataclass(frozen=True)
class Reading:
    """What a line says as taken: degrees, photo pixels, and the standard deviation of its angle."""

    slope_deg: float
    lean_deg: float
    length_px: float
    sd_deg: float


def read(points: Array, sigma_px: float = 1.0) -> Reading:
    """Read a line through (N, 2) points, by total least squares when there are more than two.

    ``sigma_px`` is the standard deviation of each point across the line. The angle's variance is
    sigma^2 / sum(t^2) with t the positions along the line from their mean (for two ends: 2 sigma^2 / L^2).

    Raises ValueError when all points coincide.

    >>> reading = read(np.array([[0.0, 0.0], [100.0, 100.0]]))
    >>> round(reading.slope_deg, 9), round(reading.lean_deg, 9), round(reading.length_px, 6)
    (45.0, -45.0, 141.421356)
    """
    along, positions = direction(points)
    spread = float(np.sum(positions**2))
    if spread == 0:
        raise ValueError("all points of the line are in the same place")
    sigma = max(sigma_px, SMALLEST_SIGMA_PX)
    return Reading(
        slope_deg=slope_of(along),
        lean_deg=lean_of(along),
        length_px=float(np.ptp(positions)),
        sd_deg=float(np.rad2deg(sigma / np.sqrt(spread))),
    )


def bend(points: Array) -> float:
    """The greatest distance in pixels of (N, 2) points from the straight line that fits them best.

    >>> bend(np.array([[0.0, 0.0], [50.0, 3.0], [100.0, 0.0]]))
    2.0
    """
    along, _ = direction(points)
    across = (points - points.mean(axis=0)) @ np.array([-along[1], along[0]])
    return float(np.abs(across).max())


def direction(points: Array) -> tuple[Array, Array]:
    """The unit direction (2,) of the line through (N, 2) points, and each point's position along it."""
    if len(points) == 2:
        dx, dy = float(points[1, 0] - points[0, 0]), float(points[1, 1] - points[0, 1])
        length = math.hypot(dx, dy)
        along = np.array([dx / length, dy / length] if length else [1.0, 0.0])
        return along, np.array([-length / 2, length / 2])
    centred = points - points.mean(axis=0)
    along = np.linalg.svd(centred, full_matrices=False)[2][0]
    return along, centred @ along


def slope_of(along: Array) -> float:
    """Slope in degrees of a direction (2,): positive when the right end is lower."""
    return fold(math.degrees(math.atan2(along[1], along[0])))


def lean_of(along: Array) -> float:
    """Lean in degrees of a direction (2,): positive when the top end is to the right."""
    return fold(math.degrees(math.atan2(along[0], -along[1])))


def fold(degrees: float) -> float:
    """The same undirected angle in (-90, 90].

    >>> fold(135.0), fold(-90.0), fold(90.0)
    (-45.0, 90.0, 90.0)
    """
    return 90.0 - (90.0 - degrees) % 180.0


def meeting_point(lines: Array) -> tuple[float, float]:
    """Where lines through two points each (n, 2, 2) meet, by least squares; not a number when they do not.

    >>> x, y = meeting_point(np.array([[[0.0, 0.0], [1.0, 1.0]], [[4.0, 0.0], [4.0, 1.0]]]))
    >>> round(x, 9), round(y, 9)
    (4.0, 4.0)
    """
    along = lines[:, 1] - lines[:, 0]
    normals = np.stack([-along[:, 1], along[:, 0]], axis=1) / np.hypot(along[:, 0], along[:, 1])[:, None]
    found, _, rank, _ = np.linalg.lstsq(normals, (normals * lines[:, 0]).sum(axis=1), rcond=1e-9)
    if rank < 2:
        return math.nan, math.nan
    return float(found[0]), float(found[1])
