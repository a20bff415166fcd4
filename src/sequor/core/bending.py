"""The lens's bending from straight things: the plumb-line method.

What is straight in the world is straight in a picture without bending, wherever the camera was aimed. So k1, and
k2 when the things determine it, are those that make the recorded points collinear once they are taken out
(D. C. Brown, *Close-Range Camera Calibration*, Photogrammetric Engineering 37 (8), 1971; F. Devernay,
O. Faugeras, *Straight lines have to be straight*, Machine Vision and Applications 13, 2001). Errors are those of
the points as recorded: a distance of an ideal point from its line counts for what the point would have to be
moved in the photo, to first order.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from .camera import Array
from .lens import Lens
from .references import SMALLEST_SIGMA_PX, Reference, direction

TERMS = ("k1", "k2")

WIDEST_SD = 0.02
"""A term that is left more open than this is not determined: the share by which it moves a point at the photo's
corner."""

HUBER_SIGMAS = 2.5
ROBUST_FROM = 3
STEP = 1e-6
MOST_ROUNDS = 60
SMALLEST_STEP = 1e-10


@dataclass(frozen=True)
class Bending:
    """What the straight things say: the lens, the names of the terms that they determine, and those terms'
    covariance (N, N). ``things`` is how many took part."""

    lens: Lens
    names: tuple[str, ...]
    covariance: Array
    things: int

    def sd(self, name: str) -> float | None:
        """The standard deviation of a term, None where it was not determined."""
        if name not in self.names:
            return None
        at = self.names.index(name)
        return float(np.sqrt(self.covariance[at, at]))


def solve_bending(references: Sequence[Reference], free: Sequence[str], lens: Lens, corner_px: float) -> Bending:
    """The terms named in ``free`` from the active straight references; all others are held.

    ``corner_px`` is how far the photo's corner lies from its middle. Terms enter in the order k1, k2, each only if
    the things determine it.
    """
    things = [one for one in references if one.active and one.kind == "straight"]
    found = Bending(lens, (), np.zeros((0, 0)), len(things))
    equations = sum(len(one.points) - 2 for one in things)
    for name in TERMS:
        tried = (*found.names, name)
        if name not in free or len(tried) > equations or (name == "k2" and "k1" in free and not found.names):
            continue
        reached = _fitted(things, tried, found.lens)
        if reached is None:
            continue
        at_corner = (corner_px / lens.unit_px) ** (2 if name == "k1" else 4)
        if (reached.sd(name) or 0.0) * at_corner <= WIDEST_SD:
            found = reached
    return found


def _fitted(things: Sequence[Reference], names: tuple[str, ...], lens: Lens) -> Bending | None:
    """Gauss and Newton's iteration, its steps halved until they lead downhill; None when the terms say nothing."""
    values = np.array([getattr(lens, name) for name in names])

    def off(at: Array) -> Array | None:
        return _distances(things, replace(lens, **dict(zip(names, map(float, at), strict=True))))

    here = off(values)
    if here is None:
        return None
    robust = len(things) >= ROBUST_FROM
    for _ in range(MOST_ROUNDS):
        slopes = _slopes(off, values, here)
        if slopes is None:
            return None
        pull = np.minimum(1.0, HUBER_SIGMAS / np.maximum(np.abs(here), 1e-12)) if robust else np.ones(len(here))
        normal = slopes.T @ (pull[:, None] * slopes)
        if np.linalg.cond(normal) > 1e12:
            return None
        step = -np.linalg.solve(normal, slopes.T @ (pull * here))
        share = 1.0
        while (there := off(values + share * step)) is None or _cost(there, robust) > _cost(here, robust):
            share /= 2
            if share < 1e-4:
                break
        if share < 1e-4 or there is None:
            break
        values, here = values + share * step, there
        if np.abs(share * step).max() < SMALLEST_STEP:
            break
    slopes = _slopes(off, values, here)
    if slopes is None:
        return None
    covariance = np.linalg.inv(slopes.T @ slopes)
    solved = replace(lens, **dict(zip(names, map(float, values), strict=True)))
    return Bending(solved, names, covariance, len(things))


def _cost(off: Array, robust: bool) -> float:
    size = np.abs(off)
    if not robust:
        return float(off @ off)
    return float(np.sum(np.where(size < HUBER_SIGMAS, off**2, HUBER_SIGMAS * (2 * size - HUBER_SIGMAS))))


def _slopes(off, values: Array, here: Array) -> Array | None:  # type: ignore[no-untyped-def]
    columns = []
    for axis in range(len(values)):
        step = np.zeros(len(values))
        step[axis] = STEP
        there = off(values + step)
        if there is None:
            return None
        columns.append((there - here) / STEP)
    return np.stack(columns, axis=1)


def _distances(things: Sequence[Reference], lens: Lens) -> Array | None:
    """How far every point lies off its line, in its own standard deviations; None beyond the lens's reach."""
    ideal, slopes = lens.undistorted_with_slopes(np.concatenate([one.points for one in things]))
    if not np.all(np.isfinite(ideal)):
        return None
    ends = np.cumsum([len(one.points) for one in things])[:-1]
    parts = []
    for one, points, stretch in zip(things, np.split(ideal, ends), np.split(slopes, ends), strict=True):
        along, _ = direction(points)
        sd = np.ones(len(points))
        # The line depends on how much each point counts, and that on the line's direction.
        for _ in range(2):
            across = np.array([-along[1], along[0]])
            sd = max(one.sigma_px, SMALLEST_SIGMA_PX) * np.linalg.norm(across @ stretch, axis=1)
            middle = np.average(points, axis=0, weights=sd**-2)
            along = np.linalg.svd((points - middle) / sd[:, None], full_matrices=False)[2][0]
        across = np.array([-along[1], along[0]])
        parts.append(np.sqrt(one.weight) * ((points - middle) @ across) / sd)
    return np.concatenate(parts)
