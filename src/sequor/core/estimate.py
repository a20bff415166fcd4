"""Weighted non-linear least squares: the values that references ask for, and how surely.

Residuals are standardised by each reference's own uncertainty; what is made small is the distance by which
the ends would have to move, to first order (Sampson's error; Hartley & Zisserman, *Multiple View Geometry in
Computer Vision*, 2nd ed., section 4.2.6). From three references on a Huber loss keeps one bad line from
dragging the others along (P. J. Huber, *Robust Estimation of a Location Parameter*, Ann. Math. Statist. 35,
1964).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from .camera import Array, Intrinsics
from .observations import ANGLES, Observations, Unknowns, equations, shifted

HUBER_SIGMAS = 2.5
"""Where a line starts to count less; costs under 1 % of efficiency on good lines."""

MOST_ROUNDS = 100
SMALLEST_STEP = 1e-9

SURE_STEP = 1e-5
"""In radians: closer by than this the iteration is not asked to prove that it goes downhill."""


def azimuth_names(seen: Observations) -> tuple[str, ...]:
    return tuple(f"azimuth {number}" for number in range(len(seen.group_names)))


def standardised(seen: Observations, at: Unknowns, wanted: Sequence[str]) -> tuple[Array, Array]:
    """Residuals (rows,) and slopes (rows, unknowns), divided by their uncertainty, whose slope counts too."""
    here = equations(seen, at, wanted)
    if here.by_noise is None:
        scale = 1 / np.sqrt(here.variance)
        off, slope = scale * here.residual, scale[:, None] * here.jacobian
    else:
        # Sides of a rectangle share their corners, so their errors hang together.
        whiten = np.linalg.inv(np.linalg.cholesky(here.by_noise @ here.by_noise.T))
        off, slope = whiten @ here.residual, whiten @ here.jacobian
    slope = slope - (off / here.variance)[:, None] * here.variance_slopes
    # For a line the quotient is the tangent of the angle by which it is off; it is the angle that is judged.
    tangent = off * seen.angle_sd
    root = np.sqrt(seen.weights)
    return root * np.arctan(tangent) / seen.angle_sd, (root / (1 + tangent**2))[:, None] * slope


def least_squares(
    seen: Observations,
    at: Unknowns,
    wanted: Sequence[str],
    weights: Array | None = None,
    robust: bool = False,
    until: float = SMALLEST_STEP,
) -> Unknowns:
    """Levenberg and Marquardt's iteration; every equation's information times ``weights`` (rows,).

    ``robust``: the Huber loss of each reference. What is made small is the distance by which the ends would
    have to move, to first order (Sampson's error; Hartley & Zisserman, 2nd ed., section 4.2.6).
    """
    weight = np.ones(seen.rows) if weights is None else weights

    def look(there: Unknowns) -> tuple[float, Array, Array]:
        """Cost, gradient and approximate second derivatives."""
        off, slope = standardised(seen, there, wanted)
        if not robust:
            pull = weight * off
            return float(off @ pull), slope.T @ pull, slope.T @ (weight[:, None] * slope)
        share = huber_share(seen, off)
        pull = weight * share * off
        # Beyond the bend the loss is a straight line: almost no second derivative.
        bent = np.where(share < 1, 0.1 * share, 1.0) * weight
        farthest = np.abs(off) * share
        cost = float(np.sum(weight * np.where(share < 1, farthest * (2 * np.abs(off) - farthest), off**2)))
        return cost, slope.T @ pull, slope.T @ (bent[:, None] * slope)

    damping = 0.0
    cost, gradient, normal = look(at)
    for _ in range(MOST_ROUNDS):
        step = -np.linalg.solve(normal + np.diag((damping + 1e-15) * np.diag(normal) + 1e-30), gradient)
        size = float(np.abs(step).max())
        tried = shifted(at, dict(zip(wanted, step, strict=True)))
        if size < until:
            return tried
        there = look(tried)
        # The uncertainties move a little with the values, so close by the cost need not fall.
        if there[0] <= cost or size < SURE_STEP:
            at, (cost, gradient, normal) = tried, there
            damping = damping / 10 if damping > 1e-4 else 0.0
        else:
            damping = max(1e-3, 10 * damping)
    return at


def huber_share(seen: Observations, off: Array) -> Array:
    """Huber's weight for every row; all rows of a reference share the least of theirs."""
    farthest = np.zeros(len(seen.ids))
    np.maximum.at(farthest, seen.owner, np.abs(off))
    share: Array = (HUBER_SIGMAS / np.maximum(farthest, HUBER_SIGMAS))[seen.owner]
    return share


def spread_of(seen: Observations, at: Unknowns, wanted: Sequence[str], weights: Array | None = None) -> Array:
    """Standard deviations of the unknowns; infinite where the lines say nothing."""
    _, jacobian = standardised(seen, at, wanted)
    if weights is not None:
        jacobian = np.sqrt(weights)[:, None] * jacobian
    scale = np.linalg.norm(jacobian, axis=0)
    if np.any(scale == 0):
        return np.full(len(wanted), np.inf)
    values, vectors = np.linalg.eigh((jacobian / scale).T @ (jacobian / scale))
    if values[0] < 1e-12:
        return np.full(len(wanted), np.inf)
    spread: Array = np.sqrt(np.sum(vectors**2 / values, axis=1)) / scale
    return spread


def deviations(
    seen: Observations,
    at: Unknowns,
    wanted: Sequence[str],
    weights: Array,
    camera: Intrinsics,
    by_others: Array,
) -> tuple[dict[str, float | None], float | None]:
    """Standard deviations of the angles in degrees and of the focal length in pixels, once solved.

    What is not known of a focal length that was not solved is carried into the angles, and so is what else
    the residuals depend on: ``by_others`` (rows, N) is what one standard deviation of each does to them.
    """
    spread = spread_of(seen, at, wanted, weights)
    if "focal_px" not in wanted and camera.focal_sd > 0:
        both = standardised(seen, at, (*wanted, "focal_px"))[1] * np.sqrt(weights)[:, None]
        by_focal = (
            np.linalg.lstsq(both[:, :-1], both[:, -1], rcond=None)[0] * camera.focal_sd / camera.focal_px
        )
        spread = np.hypot(spread, by_focal)
    if by_others.size:
        root = np.sqrt(weights)[:, None]
        jacobian = standardised(seen, at, wanted)[1] * root
        carried = np.linalg.lstsq(jacobian, by_others * root, rcond=None)[0]
        spread = np.sqrt(spread**2 + np.sum(carried**2, axis=1))
    sds: dict[str, float | None] = {
        name: float(np.rad2deg(spread[wanted.index(name)])) if name in wanted else None for name in ANGLES
    }
    focal_sd = float(spread[wanted.index("focal_px")]) * at.focal_px if "focal_px" in wanted else None
    return sds, focal_sd
