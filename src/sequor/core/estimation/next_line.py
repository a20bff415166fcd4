"""Which one line more would say most of the camera: looked for by laying it at many places, without noise.

A line tells the same wherever its reading lies, so what it would leave open is known before it is laid: the
covariance after one observation more (S. M. Kay, *Fundamentals of Statistical Signal Processing: Estimation
Theory*, 1993, ch. 8.4, sequential least squares; from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from sequor.core.camera import Array, Intrinsics
from sequor.core.estimation.least_squares import covariance_matrix, standardised
from sequor.core.estimation.observe import observe
from sequor.core.estimation.solve import Solution
from sequor.core.estimation.unknowns import ANGLES, Unknown
from sequor.core.references.reference import Reference

OPEN_DEG = {"roll": 0.15, "pitch": 0.5, "yaw": 0.5}
"""A standard deviation of what is taken out that is worth another line: ± 0.3° is seen in a horizon, and ± 1°
of aim in a wall near the edge."""

HELPS = 0.5
"""A line that leaves more than this share of it open does not help enough to be named."""

NEARLY_AS_GOOD = 1.6
"""Places where a line says this much less are shown together with the best."""

ALSO = 2.0
"""Another kind of line that leaves no more than this many times as much open is named too."""

PLACES = 19
PLUMB_LENGTH = 0.4
LEVEL_LENGTH = 0.5
"""As shares of the photo's height and width."""


@dataclass(frozen=True)
class Advice:
    """The one line that would leave least open of ``angle``: its kind, the band (x, y, width, height) in
    photo pixels in which it says most, the angle's standard deviation in degrees now and with it, and whether
    a line of the other kind would do as well. A focal length that is not known is held: no such line tells
    it."""

    angle: Unknown
    kind: Literal["plumb", "level"]
    band: tuple[float, float, float, float]
    sd_now: float
    sd_then: float
    other_kind_too: bool


def most_telling(solution: Solution, references: Sequence[Reference], camera: Intrinsics) -> Advice | None:
    """The line that would help most with what is taken out; None where little is open, no single line would
    help, or the lens does not tell of all of the photo.

    ``references`` are those that the solution rests on; a line more is taken to be drawn as well as they are.
    """
    known = solution.known
    if known is None or solution.conflicts:
        return None
    covariance = covariance_matrix(known.seen, known.at, known.names)
    if covariance is None:
        return None
    open_now = {
        name: float(np.rad2deg(np.sqrt(covariance[index, index])))
        for index, name in enumerate(known.names)
        if name in OPEN_DEG and solution.sd[name] is not None
    }
    angle = max(ANGLES, key=lambda name: open_now.get(name, 0.0) / OPEN_DEG[name])
    now = open_now.get(angle, 0.0)
    if now <= OPEN_DEG[angle]:
        return None
    shares = np.linspace(0.05, 0.95, PLACES)
    sigma = float(np.median([one.sigma_px for one in references if one.counts]))
    laid = _laid(shares, camera, sigma)
    if not np.all(
        np.isfinite(known.lens.lens.rays(np.concatenate([one.points for one in laid]), camera.focal_px))
    ):
        return None
    seen, _ = observe(laid, camera, known.lens, False)
    # Where receding lines run is nothing to these.
    concerns = [name for name in known.names if name not in known.seen.azimuths]
    slopes = np.zeros((seen.rows, len(known.names)))
    slopes[:, [known.names.index(name) for name in concerns]] = standardised(seen, known.at, concerns)[1]
    left = np.rad2deg(np.sqrt(_left_open(covariance, slopes, known.names.index(angle))))
    plumb, level = left[:PLACES], left[PLACES:]
    kind: Literal["plumb", "level"] = "plumb" if plumb.min() <= ALSO * level.min() else "level"
    mine, others = (plumb, level) if kind == "plumb" else (level, plumb)
    best = float(mine.min())
    if best > HELPS * now:
        return None
    low, high = _around(mine, NEARLY_AS_GOOD * best)
    half = 0.5 * (shares[1] - shares[0])
    first, extent = float(shares[low] - half), float(shares[high] - shares[low] + 2 * half)
    width, height = camera.width, camera.height
    band = (
        (first * width, 0.0, extent * width, float(height))
        if kind == "plumb"
        else (0.0, first * height, float(width), extent * height)
    )
    return Advice(angle, kind, band, now, best, bool(others.min() <= ALSO * best))


def _laid(shares: Array, camera: Intrinsics, sigma: float) -> list[Reference]:
    """Plumb lines side by side, then level lines one below the other."""
    width, height = camera.width, camera.height
    half_high, half_wide = PLUMB_LENGTH / 2 * height, LEVEL_LENGTH / 2 * width
    middle_x, middle_y = width / 2, height / 2
    plumb = [
        Reference(
            f"x{x}",
            "plumb",
            np.array([[x * width, middle_y - half_high], [x * width, middle_y + half_high]]),
            sigma,
        )
        for x in shares
    ]
    level = [
        Reference(
            f"y{y}",
            "level",
            np.array([[middle_x - half_wide, y * height], [middle_x + half_wide, y * height]]),
            sigma,
        )
        for y in shares
    ]
    return plumb + level


def _left_open(covariance: Array, slopes: Array, index: int) -> Array:
    """The variance (N,) of an unknown after one observation more, for each of its slopes (N, M)."""
    carried = slopes @ covariance
    left: Array = covariance[index, index] - carried[:, index] ** 2 / (1 + np.sum(carried * slopes, axis=1))
    return left


def _around(left: Array, most: float) -> tuple[int, int]:
    """The run of places about the best that leave no more open than that."""
    low = high = int(np.argmin(left))
    while low > 0 and left[low - 1] <= most:
        low -= 1
    while high < len(left) - 1 and left[high + 1] <= most:
        high += 1
    return low, high
