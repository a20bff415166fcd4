"""The camera's attitude from reference lines, by weighted least squares.

Each line is standardised by the uncertainty of its own angle; ``weight`` multiplies its information.
Unknowns enter in the order roll, pitch, yaw, focal length, lens, each only if it is named free and the
lines determine it. Roll is the one unknown built so far: a camera turned clockwise makes level things rise to
the right and upright things lean left, so a line that is off its direction by `d` degrees asks for
roll = -d, wherever it lies.

With three lines or more a Huber loss keeps one bad line from dragging the others along
(P. J. Huber, *Robust Estimation of a Location Parameter*, Ann. Math. Statist. 35, 1964). Two lines cannot
say which of them is wrong: the difference is split by weight and reported.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

import numpy as np

from .camera import Array, Attitude
from .references import Reference, direction, fold, off_direction, read

Verdict = Literal["agrees", "disagrees", "receding?", "alone", "off", "witness"]
Reason = Literal["two-disagree", "outlier", "receding-as-level"]
Unknown = Literal["roll", "pitch", "yaw", "focal_px", "k1", "k2"]

DISAGREE_SIGMAS = 3.0
"""Beyond three standard deviations two readings are not the same thing (common practice)."""

HUBER_SIGMAS = 2.5
"""Where a line starts to count less; costs under 1 % of efficiency on good lines."""


@dataclass(frozen=True)
class Conflict:
    """Lines that the unknowns in use cannot all meet: by how many degrees, and standard deviations."""

    ids: tuple[str, ...]
    deg: float
    sigmas: float
    reason: Reason


@dataclass(frozen=True)
class Solution:
    """The attitude that the lines ask for; a standard deviation is None where nothing was solved."""

    attitude: Attitude
    sd_roll: float | None
    undetermined: tuple[str, ...]
    conflicts: tuple[Conflict, ...]


def solve(references: Sequence[Reference], free: Sequence[Unknown]) -> Solution:
    """Solve the free angles from the active level and plumb lines.

    What is free but not determined by any line is listed in ``undetermined`` and held at 0.

    >>> line = Reference("r1", "level", np.array([[0.0, 100.0], [1000.0, 100.0 - 1000 * 0.0401640]]))
    >>> round(solve([line], ["roll"]).attitude.roll, 3)
    2.3
    """
    lines = [reference for reference in references if reference.counts]
    if "roll" not in free or not lines:
        return Solution(Attitude(), None, tuple(free), ())
    asked = np.array([asked_roll(line) for line in lines])
    variance = np.array([roll_variance(line) for line in lines])
    asked = asked[0] + np.array([fold(value - asked[0]) for value in asked])
    roll, sd = robust_mean(asked, variance)
    return Solution(
        attitude=Attitude(roll=fold(roll)),
        sd_roll=sd,
        undetermined=tuple(name for name in free if name != "roll"),
        conflicts=tuple(find_conflicts([line.id for line in lines], asked, variance)),
    )


def asked_roll(line: Reference) -> float:
    """The roll in degrees that would bring one level or plumb line to its direction."""
    along, _ = direction(line.points)
    return -off_direction(line.kind, along)


def roll_variance(line: Reference) -> float:
    """Variance in square degrees of what one line says about roll, its weight included."""
    return read(line.points, line.sigma_px).sd_deg ** 2 / line.weight


def robust_mean(values: Array, variance: Array) -> tuple[float, float]:
    """Weighted mean of (N,) values with a Huber loss from three values on, and its standard deviation."""
    information = 1.0 / variance
    mean = float(np.average(values, weights=information))
    if len(values) > 2:
        mean = _weighted_median(values, information)
        for _ in range(100):
            off = np.abs(values - mean) * np.sqrt(information)
            share = np.minimum(1.0, HUBER_SIGMAS / np.maximum(off, 1e-300))
            before, mean = mean, float(np.average(values, weights=information * share))
            if abs(mean - before) < 1e-13:
                break
    return mean, float(1.0 / np.sqrt(information.sum()))


def find_conflicts(ids: Sequence[str], values: Array, variance: Array) -> list[Conflict]:
    """Which lines cannot be met together.

    Two that disagree are reported as a pair. Of three or more, each is left out in turn: when one alone
    stands away from all the rest, which agree with each other, it is the outlier; otherwise every pair
    that disagrees is reported.
    """
    pairs = [
        Conflict((ids[a], ids[b]), gap, gap / sd, "two-disagree")
        for a, b in combinations(range(len(ids)), 2)
        for gap, sd in [(abs(float(values[a] - values[b])), float(np.sqrt(variance[a] + variance[b])))]
        if gap > DISAGREE_SIGMAS * sd
    ]
    if len(ids) < 3 or not pairs:
        return pairs
    outliers = []
    for index, name in enumerate(ids):
        if any(name not in pair.ids for pair in pairs):
            continue
        rest = np.arange(len(ids)) != index
        mean, sd = robust_mean(values[rest], variance[rest])
        gap, sd = abs(float(values[index] - mean)), float(np.hypot(sd, np.sqrt(variance[index])))
        outliers.append(Conflict((name,), gap, gap / sd, "outlier"))
    return outliers if len(outliers) == 1 else pairs


def judge(reference: Reference, solution: Solution, misfit_deg: float, sd_deg: float, alone: bool) -> Verdict:
    """The word on one line: ``misfit_deg`` is how far it stands off with all that was solved taken out."""
    if not reference.active:
        return "off"
    if reference.kind == "witness":
        return "witness"
    if any(reference.id in conflict.ids for conflict in solution.conflicts):
        return "disagrees"
    if alone:
        return "alone"
    return "agrees" if abs(misfit_deg) <= DISAGREE_SIGMAS * sd_deg else "disagrees"


def _weighted_median(values: Array, weights: Array) -> float:
    order = np.argsort(values)
    share = np.cumsum(weights[order])
    return float(values[order][np.searchsorted(share, share[-1] / 2)])
