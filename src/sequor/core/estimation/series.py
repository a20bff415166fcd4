"""Several photos that share something: how the camera was held on a tripod, or how its lens bends.

What photos tell independently of each other is put together by the inverse of its covariance (the
information-weighted mean; e.g. Mikhail & Ackermann, *Observations and Least Squares*, 1976, chapter 4). What
they have in common, a focal length or a lens that nobody knows better for all of them, does not average out
and stays as it is. Whether they share it is tested by chi-square, and each photo against all the others.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq
from scipy.stats import chi2, ncx2

from sequor.core.camera import Array
from sequor.core.estimation.least_squares import covariance_matrix
from sequor.core.estimation.select import WIDEST_AIM_SD_DEG
from sequor.core.estimation.solve import Solution

REFUSED_FROM = 0.99
"""Chance with which photos that do share it differ by less."""

SEEN_WITH = 0.8
"""Chance with which a difference is seen that is said to be one that would have been."""

FLOOR_DEG = 0.02
"""What no number of photos takes away: things that are called level or upright are not quite."""

LARGEST_RATIO = 3.0
"""By so much at most the photos' own scatter widens what is told of them together."""


@dataclass(frozen=True)
class Telling:
    """What one photo tells: ``values`` (N,), the information (N, N) that is its own, zero where it tells
    nothing, and the covariance (N, N) that it has in common with the others."""

    values: Array
    own: Array
    common: Array


@dataclass(frozen=True)
class Shared:
    """What photos tell together: ``values`` (N,), NaN where none tells anything, and their covariance (N, N).
    ``chi_square`` of their differences with ``freedom``, and the chance of ``more`` by accident; ``odd``: the
    photo that does not belong to the others, None where none stands out. ``noticed`` (N,): the smallest
    difference of one photo that would have been seen."""

    values: Array
    covariance: Array
    chi_square: float
    freedom: int
    more: float
    odd: int | None
    noticed: Array

    @property
    def refused(self) -> bool:
        """Whether the photos differ by more than chance explains."""
        return self.freedom > 0 and self.more < 1 - REFUSED_FROM

    def sd(self, index: int) -> float:
        """The standard deviation of a value."""
        return float(np.sqrt(self.covariance[index, index]))


def attitude_telling(solution: Solution) -> Telling | None:
    """What a solved photo tells of roll and pitch, in degrees; None where its lines say nothing.

    How people aim is left out: it would be counted once with every photo.
    """
    known = solution.known
    if known is None or "roll" not in known.names:
        return None
    held = tuple(name for name in known.names if name != "focal_px" and not name.startswith("term"))
    alone = known.seen.with_aim(math.inf)
    covariance = covariance_matrix(alone, known.at, held) if "pitch" in held else None
    names: tuple[str, ...] = ("roll", "pitch")
    if covariance is None or _sd(covariance, held, "pitch") > math.radians(WIDEST_AIM_SD_DEG):
        covariance, names = covariance_matrix(known.seen, known.at, held), ("roll",)
    if covariance is None:
        return None
    mine = _degrees(covariance, held, names)
    together = _degrees(known.covariance, known.names, names)
    own, common = np.zeros((2, 2)), np.zeros((2, 2))
    told = np.ix_(range(len(names)), range(len(names)))
    own[told] = np.linalg.inv(mine)
    common[told] = _positive(together - mine)
    attitude = known.attitude
    return Telling(np.array([attitude.roll, attitude.pitch]), own, common)


def lens_telling(solution: Solution) -> Telling | None:
    """What a photo's straight things tell of k1 and k2, in its lens's unit; None where they tell nothing."""
    fit = solution.distortion
    if not fit.names:
        return None
    count = len(fit.names)
    own = np.zeros((2, 2))
    own[:count, :count] = np.linalg.inv(fit.covariance)
    return Telling(np.array([fit.lens.k1, fit.lens.k2]), own, np.zeros((2, 2)))


def put_together(tellings: Sequence[Telling], floor: float = 0.0) -> Shared:
    """What photos tell together; ``floor``: what remains of every value's standard deviation.

    Their own scatter widens it where they scatter by more than they tell (R. T. Birge, *The Calculation of
    Errors by the Method of Least Squares*, Physical Review 40, 1932).
    """
    information = np.sum([one.own for one in tellings], axis=0)
    covariance = _inverse(information)
    values = covariance @ np.sum([one.own @ one.values for one in tellings], axis=0)
    told = np.diag(information) > 0
    off = [one.values - values for one in tellings]
    chi_square = float(sum(d @ one.own @ d for d, one in zip(off, tellings, strict=True)))
    freedom = sum(_rank(one.own) for one in tellings) - int(told.sum())
    ratio = min(LARGEST_RATIO, max(1.0, chi_square / freedom)) if freedom > 0 else 1.0
    common = np.mean([one.common for one in tellings], axis=0)
    whole = covariance * ratio + common + np.diag(np.where(told, floor**2, 0.0))
    return Shared(
        values=np.where(told, values, np.nan),
        covariance=whole,
        chi_square=chi_square,
        freedom=freedom,
        more=float(chi2.sf(chi_square, freedom)) if freedom > 0 else 1.0,
        odd=_odd_one(tellings),
        noticed=_noticed(tellings, information, freedom),
    )


def _odd_one(tellings: Sequence[Telling]) -> int | None:
    """The photo that is farthest from all the others, where chance does not explain that; which of two is
    wrong nobody can tell."""
    if len(tellings) < 3:
        return None
    chances = []
    for at, one in enumerate(tellings):
        others = np.sum([other.own for index, other in enumerate(tellings) if index != at], axis=0)
        middle = _inverse(others) @ np.sum(
            [other.own @ other.values for index, other in enumerate(tellings) if index != at], axis=0
        )
        both = (np.diag(one.own) > 0) & (np.diag(others) > 0)
        if not both.any():
            chances.append(1.0)
            continue
        spread = (_inverse(one.own) + _inverse(others))[np.ix_(both, both)]
        off = (one.values - middle)[both]
        chances.append(float(chi2.sf(off @ np.linalg.inv(spread) @ off, int(both.sum()))))
    least = int(np.argmin(chances))
    # One in a hundred, shared among all that are looked at (Bonferroni).
    return least if chances[least] < (1 - REFUSED_FROM) / len(tellings) else None


def _noticed(tellings: Sequence[Telling], information: Array, freedom: int) -> Array:
    """The difference in each value of the photo in the middle that the test would have seen."""
    size = len(information)
    if freedom < 1:
        return np.full(size, np.inf)
    limit = chi2.ppf(REFUSED_FROM, freedom)
    wanted = brentq(lambda shift: ncx2.sf(limit, freedom, shift) - SEEN_WITH, 1e-6, 1e4)
    all_of_it = _inverse(information)
    found = np.full(size, np.inf)
    for index in range(size):
        told = [one.own - one.own @ all_of_it @ one.own for one in tellings if one.own[index, index] > 0]
        weights = sorted(float(each[index, index]) for each in told)
        if weights and weights[len(weights) // 2] > 0:
            found[index] = math.sqrt(wanted / weights[len(weights) // 2])
    return found


def _sd(covariance: Array, names: Sequence[str], name: str) -> float:
    index = list(names).index(name)
    return float(np.sqrt(covariance[index, index]))


def _degrees(covariance: Array, names: Sequence[str], wanted: Sequence[str]) -> Array:
    at = [list(names).index(name) for name in wanted]
    return np.asarray(covariance[np.ix_(at, at)] * math.degrees(1) ** 2, np.float64)


def _positive(matrix: Array) -> Array:
    """The nearest symmetric matrix (N, N) without negative variances."""
    values, vectors = np.linalg.eigh((matrix + matrix.T) / 2)
    return np.asarray((vectors * np.maximum(values, 0)) @ vectors.T, np.float64)


def _inverse(information: Array) -> Array:
    """The covariance (N, N) where something is told, zero elsewhere."""
    told = np.diag(information) > 0
    inverse = np.zeros_like(information)
    inverse[np.ix_(told, told)] = np.linalg.inv(information[np.ix_(told, told)])
    return inverse


def _rank(own: Array) -> int:
    return int(np.sum(np.diag(own) > 0))
