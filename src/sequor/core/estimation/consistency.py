"""Who fights whom: references that the unknowns in use cannot all meet, and what it may mean.

A line that alone stands away from all the rest is found by leaving each out in turn (W. Baarda, *A Testing
Procedure for Use in Geodetic Networks*, 1968: redundancy numbers and standardised residuals), and is then not
listened to. Two lines cannot say which of them is wrong: the difference is split by weight and reported.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from sequor.core.camera import Array, Intrinsics
from sequor.core.estimation.equations import Observations
from sequor.core.estimation.least_squares import (
    SURE_STEP,
    huber_weights,
    least_squares,
    standard_error,
    standardised,
    with_focal,
    with_prior,
)
from sequor.core.estimation.select import STEEPEST, WIDEST_SD_DEG, pitch_determined, start
from sequor.core.estimation.unknowns import Unknowns
from sequor.core.references.base import RECEDING, off_direction
from sequor.core.references.line import direction, fold, slope_of
from sequor.core.references.reference import Reference

Reason = Literal["two-disagree", "outlier", "receding-as-level"]

DISAGREE_SIGMAS = 3.0
"""Beyond three standard deviations two readings are not the same thing (common practice)."""

STILL_CHANCE = 4.0
"""What may stand off by chance beside a gross mistake."""

CLEARLY_BETTER = 4.0
"""By how much the misfit without one line must be under that without any other (seven times as likely)."""

FAR_BETTER = 0.25
"""Lines that stand off by no more than this share of what they did fit far better."""

CHECKED_FROM = 0.01
"""Redundancy number under which nothing checks a line."""

USUAL_AIM_DEG = 15.0
"""A photo is hardly aimed farther up or down when nothing tells (common practice, no source)."""

MOST_SUSPECTS = 3

ROUNDS_WITH_FOCAL = 25
"""Lines that would agree with another focal length do so by then."""

_JOINT_SIGMAS = (0.0, 3.0, 3.44, 3.76, 4.03, 4.28)
"""The chi-square quantiles of 1 to 5 equations at the same level as three standard deviations of one."""


@dataclass(frozen=True)
class Conflict:
    """Lines that the unknowns in use cannot all meet: by how many degrees, and standard deviations.

    ``turn_deg`` is the yaw under which all of them are met (``turn_meets``) or at least fit far better, where
    there is one.
    """

    ids: tuple[str, ...]
    deg: float
    sigmas: float
    reason: Reason
    turn_deg: float | None = None
    turn_meets: bool = False


def robust_refit(
    seen: Observations, at: Unknowns, wanted: Sequence[str], camera: Intrinsics
) -> tuple[Unknowns, Array, tuple[Conflict, ...]]:
    """The final values, the rows' weights, and who cannot be met: from the plain least-squares solution."""
    all_rows = np.ones(seen.rows)
    test = _test(seen, at, wanted, all_rows, camera)
    if test.agrees or _agree_with_another_focal(seen, at, wanted, camera):
        return _huber(seen, at, wanted), all_rows, ()
    named = _single_outlier(seen, at, wanted, test, camera)
    if named is not None:
        weights = seen.without(named)
        alone = least_squares(seen, at, wanted, weights)
        gap = _gap(seen, alone, (named,))
        return (
            alone,
            weights,
            (Conflict((seen.ids[named],), gap, _stands_off(seen, alone, wanted, named, camera), "outlier"),),
        )
    strangers = tuple(int(index) for index in np.flatnonzero(test.sigmas > DISAGREE_SIGMAS))
    conflict = Conflict(
        tuple(seen.ids[index] for index in strangers),
        _gap(seen, at, strangers),
        float(test.sigmas.max()),
        "two-disagree" if len(strangers) > 1 else "outlier",
    )
    return _huber(seen, at, wanted), all_rows, (conflict,)


def _agree_with_another_focal(
    seen: Observations, at: Unknowns, wanted: Sequence[str], camera: Intrinsics
) -> bool:
    """Whether the lines agree where the focal length may follow them, as far as it is open: a share of 40 %
    is no small one."""
    seen, names = with_focal(seen, wanted, camera)
    if names == tuple(wanted):
        return False
    there = least_squares(seen, at, names, until=SURE_STEP, rounds=ROUNDS_WITH_FOCAL)
    return _test(seen, there, names, np.ones(seen.rows), camera).agrees


def _single_outlier(
    seen: Observations, at: Unknowns, wanted: Sequence[str], test: _Test, camera: Intrinsics
) -> int | None:
    """The one reference without which the rest agrees and still checks itself; None when unclear."""
    if len(seen.ids) < 3:
        return None
    rest: list[tuple[float, int]] = []
    # The misfit of the rest falls by the square of what stands off most, so the one is among the first.
    for index in np.argsort(-test.sigmas, kind="stable")[:MOST_SUSPECTS]:
        weights = seen.without(int(index))
        rest_at = least_squares(seen, at, wanted, weights, until=SURE_STEP)
        without = _test(seen, rest_at, wanted, weights, camera)
        # Beside a gross mistake a rest that by chance stands off a little more than usual is no second one.
        if without.agrees or without.sigmas.max() <= min(STILL_CHANCE, test.sigmas[index] / 6):
            rest.append((without.misfit, int(index)))
    rest.sort()
    clear = len(rest) == 1 or (len(rest) > 1 and rest[1][0] - rest[0][0] > CLEARLY_BETTER)
    if not rest or not clear:
        return None
    kept = seen.without(rest[0][1])
    # What is known beforehand checks nothing: the others must do so among themselves.
    angles = [name for name in wanted if name not in seen.terms]
    checked = np.sqrt(kept)[:, None] * standardised(seen, at, angles)[1]
    checks = int(np.sum(kept)) - _basis(checked).shape[1]
    return rest[0][1] if checks > 0 else None


def _stands_off(
    seen: Observations, at: Unknowns, wanted: Sequence[str], index: int, camera: Intrinsics
) -> float:
    """How many standard deviations a reference stands off the others' solution, both errors counted."""
    seen, names = with_focal(seen, wanted, camera)
    residual, jacobian = with_prior(seen, at, names)
    rows = np.zeros(len(residual), bool)
    rows[: seen.rows] = seen.owner == index
    inverse = np.linalg.pinv(jacobian[~rows].T @ jacobian[~rows])
    spread = np.eye(int(np.sum(rows))) + jacobian[rows] @ inverse @ jacobian[rows].T
    off = residual[rows]
    return float(np.sqrt(off @ np.linalg.solve(spread, off)))


@dataclass(frozen=True)
class _Test:
    """How far each reference stands off what the others say, in standard deviations of that.

    ``sigmas`` (references,) are brought to the scale of a single equation; ``misfit`` is their sum of
    squares, before that.
    """

    sigmas: Array
    misfit: float

    @property
    def agrees(self) -> bool:
        return bool(np.all(self.sigmas <= DISAGREE_SIGMAS))


def _test(
    seen: Observations, at: Unknowns, wanted: Sequence[str], weights: Array, camera: Intrinsics
) -> _Test:
    """Standardised residuals at a least-squares solution, by reference."""
    seen, names = with_focal(seen, wanted, camera)
    residual, jacobian = with_prior(seen, at, names, weights)
    basis = _basis(jacobian)
    left = residual - basis @ (basis.T @ residual)
    slack = np.eye(len(residual)) - basis @ basis.T
    sigmas = np.zeros(len(seen.ids))
    if seen.separate:
        free = np.diag(slack)[: seen.rows]
        told = (free > CHECKED_FROM) & (weights > 0)
        sigmas[told] = np.abs(left[: seen.rows][told]) / np.sqrt(free[told])
        return _Test(sigmas, float(left @ left))
    for index in range(len(seen.ids)):
        rows = np.flatnonzero(seen.owner == index)
        values, vectors = np.linalg.eigh(slack[np.ix_(rows, rows)])
        checked = values > CHECKED_FROM
        count = int(np.sum(checked))
        if count and weights[rows[0]] > 0:
            squares = float(np.sum((vectors[:, checked].T @ left[rows]) ** 2 / values[checked]))
            sigmas[index] = np.sqrt(squares) * DISAGREE_SIGMAS / _JOINT_SIGMAS[min(count, 5)]
    return _Test(sigmas, float(left @ left))


def _basis(jacobian: Array) -> Array:
    """An orthonormal basis (rows, rank) of what the unknowns can explain."""
    scaled = jacobian / np.maximum(np.linalg.norm(jacobian, axis=0), 1e-300)
    left, values, _ = np.linalg.svd(scaled, full_matrices=False)
    basis: Array = left[:, values > 1e-7]
    return basis


def redundancy_numbers(
    seen: Observations, at: Unknowns, wanted: Sequence[str], covariance: Array
) -> dict[str, float]:
    """How much the others check each reference (Baarda's redundancy numbers, the largest of its rows), by the
    covariance (unknowns, unknowns) that all of them leave."""
    slopes = standardised(seen, at, wanted)[1]
    slack = 1 - np.sum(slopes @ covariance * slopes, axis=1)
    return {name: float(slack[seen.owner == index].max()) for index, name in enumerate(seen.ids)}


def _huber(seen: Observations, at: Unknowns, wanted: Sequence[str]) -> Unknowns:
    """The Huber estimate from three references on; the plain one, which ``at`` is, when all lie near."""
    if len(seen.ids) < 3 or np.all(huber_weights(seen, standardised(seen, at, wanted)[0]) == 1):
        return at
    return least_squares(seen, at, wanted, robust=True)


def _gap(seen: Observations, at: Unknowns, strangers: Sequence[int]) -> float:
    """By how many degrees: the greatest difference of two, or how far one stands off, in the picture."""
    off = [misfit for index in strangers for misfit in _misfits(seen, at, index)]
    if len(strangers) > 1:
        return float(max(off) - min(off))
    return float(max(abs(value) for value in off))


def _misfits(seen: Observations, at: Unknowns, index: int) -> list[float]:
    """Degrees by which the lines of one reference stand off their direction once the camera is level."""
    turn = at.attitude().rotation()
    found = []
    for row in np.flatnonzero(seen.owner[: len(seen.kinds)] == index):
        ends = np.stack([seen.first[row], seen.last[row]]) * [1.0, 1.0, at.focal_px] @ turn.T
        plane = ends[:, :2] / ends[:, 2:]
        along, _ = direction(plane)
        if seen.kinds[row] == RECEDING:
            azimuth = at.azimuths[seen.groups[row]]
            towards = np.array([np.sin(azimuth), 0.0]) - np.cos(azimuth) * plane.mean(axis=0)
            found.append(fold(slope_of(along) - slope_of(towards)))
        else:
            found.append(off_direction(seen.kinds[row], along))
    return found


def explained(
    conflict: Conflict,
    references: Sequence[Reference],
    seen: Observations,
    at: Unknowns,
    wanted: Sequence[str],
    camera: Intrinsics,
) -> Conflict:
    """Why it may be: a level line that runs away, or a picture that was taken turned aside."""
    misled = {reference.id for reference in references if reference.rules.may_run_away}
    if conflict.reason == "outlier" and conflict.ids[0] in misled:
        if _runs_away(seen, at, seen.ids.index(conflict.ids[0]), pitch_determined(seen, at, wanted)):
            return replace(conflict, reason="receding-as-level")
        return conflict
    if "yaw" in wanted or not misled & set(conflict.ids):
        return conflict
    wanted = (*wanted, "yaw")
    there = least_squares(seen, start("yaw", seen, at), wanted, until=SURE_STEP)
    if standard_error(seen, there, wanted, "yaw") > math.radians(WIDEST_SD_DEG):
        return conflict
    test = _test(seen, there, wanted, np.ones(seen.rows), camera)
    if abs(there.yaw) >= STEEPEST or test.sigmas.max() > max(DISAGREE_SIGMAS, FAR_BETTER * conflict.sigmas):
        return conflict
    return replace(conflict, turn_deg=float(np.rad2deg(there.yaw)), turn_meets=test.agrees)


def _runs_away(seen: Observations, at: Unknowns, index: int, pitch_known: bool) -> bool:
    """Whether a line can be level and run away: it meets the horizon beyond its own ends.

    Where the horizon's height is not known, it may lie anywhere within ``USUAL_AIM_DEG`` of the assumed one.
    """
    turn = at.attitude().rotation()
    row = int(np.flatnonzero(seen.owner == index)[0])
    rays = np.stack([seen.first[row], seen.last[row]]) * [1.0, 1.0, at.focal_px] @ turn.T
    heights = np.rad2deg(np.arctan2(rays[:, 1], rays[:, 2]))
    meant = bool(heights[0] * heights[1] > 0)
    return meant or (not pitch_known and float(np.abs(heights).min()) <= USUAL_AIM_DEG)
