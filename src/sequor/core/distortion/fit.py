"""The lens's bending from straight things: the plumb-line method.

What is straight in the world is straight in a picture without bending, wherever the camera was aimed. So k1,
and k2 when the things determine it, are those that make the recorded points collinear once they are taken out
(D. C. Brown, *Close-Range Camera Calibration*, Photogrammetric Engineering 37 (8), 1971; F. Devernay,
O. Faugeras, *Straight lines have to be straight*, Machine Vision and Applications 13, 2001). Errors are those
of the points as recorded: a distance of an ideal point from its line counts for what the point would have to
be moved in the photo, to first order.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from sequor.core.camera import Array
from sequor.core.distortion.models import Lens
from sequor.core.references.line import SMALLEST_SIGMA_PX
from sequor.core.references.reference import Reference

BentBy = Literal["k1", "k2"]

TERMS: tuple[BentBy, ...] = ("k1", "k2")

WIDEST_SD = {"k1": 0.05, "k2": 0.02}
"""A term that is left more open than this is not determined: the share by which it moves a point at the
photo's corner."""

HUBER_SIGMAS = 2.5
ROBUST_FROM = 3
MOST_ROUNDS = 60
MOST_LOOKS = 100
MOST_HALVINGS = 14
SMALLEST_STEP = 1e-7

SURE_STEP = 1e-3
"""Closer by than this the iteration is not asked to prove that it goes downhill: the uncertainties move along
with the terms, so that the cost need not fall."""


@dataclass(frozen=True)
class DistortionFit:
    """What the straight things say: the lens, the names of the terms that they determine, and those terms'
    covariance (N, N). ``things`` is how many took part."""

    lens: Lens
    names: tuple[BentBy, ...]
    covariance: Array
    things: int

    def sd(self, name: str) -> float | None:
        """The standard deviation of a term, None where it was not determined."""
        if name not in self.names:
            return None
        at = self.names.index(name)
        return float(np.sqrt(self.covariance[at, at]))


def fit_distortion(
    references: Sequence[Reference], free: Sequence[str], lens: Lens, corner_px: float
) -> DistortionFit:
    """The terms named in ``free`` from the active straight references; all others are held.

    ``corner_px`` is how far the photo's corner lies from its middle. Terms enter in the order k1, k2, each
    only if the things determine it.
    """
    things = [one for one in references if one.active and one.rules.tells_lens]
    found = DistortionFit(lens, (), np.zeros((0, 0)), len(things))
    equations = sum(len(one.points) - 2 for one in things)
    for name in TERMS:
        tried = (*found.names, name)
        if name not in free or len(tried) > equations or (name == "k2" and "k1" in free and not found.names):
            continue
        reached = _fitted(things, tried, found.lens)
        if reached is None:
            continue
        at_corner = (corner_px / lens.unit_px) ** (2 if name == "k1" else 4)
        if (reached.sd(name) or 0.0) * at_corner <= WIDEST_SD[name]:
            found = reached
    return found


def _fitted(things: Sequence[Reference], names: tuple[BentBy, ...], lens: Lens) -> DistortionFit | None:
    """Gauss and Newton's iteration, its steps halved until they lead downhill; None when the terms say
    nothing."""
    here = _distances(things, lens, names)
    if here is None:
        return None
    robust = len(things) >= ROBUST_FROM
    looks = 0
    for _ in range(MOST_ROUNDS):
        off, slopes = here
        pull = np.minimum(1.0, HUBER_SIGMAS / np.maximum(np.abs(off), 1e-12)) if robust else np.ones(len(off))
        normal = slopes.T @ (pull[:, None] * slopes)
        if np.linalg.cond(normal) > 1e12:
            return None
        step = -np.asarray(np.linalg.solve(normal, slopes.T @ (pull * off)), np.float64)
        for _ in range(MOST_HALVINGS):
            tried = _moved(lens, names, step)
            there = _distances(things, tried, names)
            looks += 1
            sure = np.abs(step).max() < SURE_STEP
            if there is not None and (sure or _cost(there[0], robust) <= _cost(off, robust)):
                break
            step = step / 2
        else:
            break
        lens, here = tried, there
        # Things that are not straight at all would be turned over for seconds.
        if np.abs(step).max() < SMALLEST_STEP or looks > MOST_LOOKS:
            break
    slopes = here[1]
    covariance = np.asarray(np.linalg.inv(slopes.T @ slopes), np.float64)
    return DistortionFit(lens, names, covariance, len(things))


def _moved(lens: Lens, names: tuple[str, ...], step: Array) -> Lens:
    changed = {name: getattr(lens, name) + float(by) for name, by in zip(names, step, strict=True)}
    return replace(lens, **changed)


def _cost(off: Array, robust: bool) -> float:
    size = np.abs(off)
    if not robust:
        return float(off @ off)
    return float(np.sum(np.where(size < HUBER_SIGMAS, off**2, HUBER_SIGMAS * (2 * size - HUBER_SIGMAS))))


def _distances(things: Sequence[Reference], lens: Lens, names: tuple[str, ...]) -> tuple[Array, Array] | None:
    """How far every point (N,) lies off its line in its own standard deviations, and how that moves with the
    terms (N, terms). None where a point lies beyond the lens's reach."""
    recorded = np.concatenate([one.points for one in things])
    ideal, stretch = lens.undistorted_with_slopes(recorded)
    if not np.all(np.isfinite(ideal)):
        return None
    counts = np.array([len(one.points) for one in things])
    first = np.cumsum(counts) - counts
    owner = np.repeat(np.arange(len(things)), counts)
    sigma = np.array([max(one.sigma_px, SMALLEST_SIGMA_PX) for one in things])[owner]
    weight = np.ones(len(ideal))

    def mean(values: Array) -> Array:
        """The weighted mean of (N, M) values over each thing, at each of its points."""
        sums = np.add.reduceat(weight[:, None] * values, first) / np.add.reduceat(weight, first)[:, None]
        return np.asarray(sums[owner])

    # The line depends on how much each point counts, and that on the line's direction.
    for _ in range(3):
        away = ideal - mean(ideal)
        scatter = mean(np.column_stack([away**2, away[:, 0] * away[:, 1]]))
        angle = np.arctan2(2 * scatter[:, 2], scatter[:, 0] - scatter[:, 1]) / 2
        across = np.stack([-np.sin(angle), np.cos(angle)], axis=1)
        grown = np.einsum("ni,nij->nj", across, stretch)
        weight = 1 / (sigma**2 * np.sum(grown**2, axis=1))
    information = np.sqrt(np.array([one.weight for one in things])[owner] * weight)
    off = np.sum(across * away, axis=1)
    position = np.sum(away * np.stack([across[:, 1], -across[:, 0]], axis=1), axis=1)[:, None]
    from_centre = (ideal - lens.centre) / lens.unit_px
    square = np.sum(from_centre**2, axis=1)
    columns = []
    for name in names:
        grows = from_centre * (square if name == "k1" else square**2)[:, None] * lens.unit_px
        columns.append(-np.sum(grown * grows, axis=1))
    moved = np.stack(columns, axis=1)
    # The line follows: what a shift and a turn of it take up is no distance.
    moved -= mean(moved)
    moved -= position * mean(position * moved) / mean(position**2)
    return information * off, information[:, None] * moved
