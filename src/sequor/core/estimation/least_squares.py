"""Weighted non-linear least squares: the values that references ask for, and how surely.

Residuals are standardised by each reference's own uncertainty; what is made small is the distance by which
the ends would have to move, to first order (Sampson's error; Hartley & Zisserman, *Multiple View Geometry in
Computer Vision*, 2nd ed., section 4.2.6). From three references on a Huber loss keeps one bad line from
dragging the others along (P. J. Huber, *Robust Estimation of a Location Parameter*, Ann. Math. Statist. 35,
1964).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from sequor.core.camera import Array, Intrinsics
from sequor.core.estimation.equations import Observations, equations
from sequor.core.estimation.unknowns import Unknowns, shifted

HUBER_SIGMAS = 2.5
"""Where a line starts to count less; costs under 1 % of efficiency on good lines."""

SMALLEST_VARIANCE = 1e-20
"""Of an equation: a level line that stands upright has none where it is looked at first."""

SAME_ERRORS = 1e-12
"""As a share: so much keeps sides apart that hang together altogether, as those of a rectangle without a
width."""

MOST_ROUNDS = 100
SMALLEST_STEP = 1e-9

SURE_STEP = 1e-5
"""In radians: closer by than this the iteration is not asked to prove that it goes downhill."""


def standardised(seen: Observations, at: Unknowns, wanted: Sequence[str]) -> tuple[Array, Array]:
    """Residuals (rows,) and slopes (rows, unknowns), divided by their uncertainty, whose slope counts too."""
    known, off, slope = seen.looked.get(at, ((), np.zeros(0), np.zeros((0, 0))))
    if not set(wanted) <= set(known):
        known = tuple(wanted)
        off, slope = _worked_out(seen, at, known)
        seen.looked[at] = known, off, slope
    return off, slope if known == tuple(wanted) else slope[:, [known.index(name) for name in wanted]]


def _worked_out(seen: Observations, at: Unknowns, wanted: Sequence[str]) -> tuple[Array, Array]:
    here = equations(seen, at, wanted)
    if here.noise_jacobian is None:
        scale = 1 / np.sqrt(np.maximum(here.variance, SMALLEST_VARIANCE))
        off, slope = scale * here.residual, scale[:, None] * here.jacobian
    else:
        # Sides of a rectangle share their corners, so their errors hang together.
        together = here.noise_jacobian @ here.noise_jacobian.T
        together += np.diag(SAME_ERRORS * np.diag(together) + SMALLEST_VARIANCE)
        whiten = np.linalg.inv(np.linalg.cholesky(together))
        off, slope = whiten @ here.residual, whiten @ here.jacobian
    slope = slope - (off / np.maximum(here.variance, SMALLEST_VARIANCE))[:, None] * here.variance_slopes
    # For a line the quotient is the tangent of the angle by which it is off; it is the angle that is judged.
    tangent = off * seen.angle_sd
    root = np.sqrt(seen.weights)
    return root * np.arctan(tangent) / seen.angle_sd, (root / (1 + tangent**2))[:, None] * slope


def with_prior(
    seen: Observations, at: Unknowns, wanted: Sequence[str], weights: Array | None = None
) -> tuple[Array, Array]:
    """Residuals (rows + M,) and slopes of the references, their information times ``weights`` (rows,), and
    below them what is known beforehand."""
    off, slope = standardised(seen, at, wanted)
    if weights is not None:
        root = np.sqrt(weights)
        off, slope = root * off, root[:, None] * slope
    known, slope_of_known = seen.prior.rows(at, wanted)
    return np.concatenate([off, known]), np.vstack([slope, slope_of_known])


def least_squares(
    seen: Observations,
    at: Unknowns,
    wanted: Sequence[str],
    weights: Array | None = None,
    robust: bool = False,
    until: float = SMALLEST_STEP,
    rounds: int = MOST_ROUNDS,
) -> Unknowns:
    """Levenberg and Marquardt's iteration; every equation's information times ``weights`` (rows,).

    ``robust``: the Huber loss of each reference. What is made small is the distance by which the ends would
    have to move, to first order (Sampson's error; Hartley & Zisserman, 2nd ed., section 4.2.6).
    """
    weight = np.ones(seen.rows) if weights is None else weights
    weight = np.append(weight, np.ones(len(seen.prior.rows(at, wanted)[0])))

    def look(there: Unknowns) -> tuple[float, Array, Array]:
        """Cost, gradient and approximate second derivatives."""
        off, slope = with_prior(seen, there, wanted)
        if not robust:
            pull = weight * off
            return float(off @ pull), slope.T @ pull, slope.T @ (weight[:, None] * slope)
        share = np.ones(len(off))
        share[: seen.rows] = huber_weights(seen, off[: seen.rows])
        pull = weight * share * off
        # Beyond the bend the loss is a straight line: almost no second derivative.
        bent = np.where(share < 1, 0.1 * share, 1.0) * weight
        farthest = np.abs(off) * share
        cost = float(np.sum(weight * np.where(share < 1, farthest * (2 * np.abs(off) - farthest), off**2)))
        return cost, slope.T @ pull, slope.T @ (bent[:, None] * slope)

    damping = 0.0
    cost, gradient, normal = look(at)
    for _ in range(rounds):
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


def huber_weights(seen: Observations, off: Array) -> Array:
    """Huber's weight for every row; all rows of a reference share the least of theirs."""
    farthest = np.zeros(len(seen.ids))
    np.maximum.at(farthest, seen.owner, np.abs(off))
    share: Array = (HUBER_SIGMAS / np.maximum(farthest, HUBER_SIGMAS))[seen.owner]
    return share


SMALL_SHARE = 0.05
"""Of a focal length: so little moves the angles in proportion."""

HALF_WIDTH_95 = 1.959964
"""Two-sided 95 % point of the normal distribution."""

NODES = 5
"""Focal lengths that are looked at when it is much; an odd number."""


def covariance_matrix(
    seen: Observations, at: Unknowns, wanted: Sequence[str], weights: Array | None = None
) -> Array | None:
    """Covariance (unknowns, unknowns); None where something is left open altogether."""
    _, jacobian = with_prior(seen, at, wanted, weights)
    scale = np.linalg.norm(jacobian, axis=0)
    if np.any(scale == 0):
        return None
    values, vectors = np.linalg.eigh((jacobian / scale).T @ (jacobian / scale))
    if values[0] < 1e-12:
        return None
    scaled = vectors / scale[:, None]
    covariance: Array = (scaled / values) @ scaled.T
    return covariance


def standard_error(
    seen: Observations, at: Unknowns, wanted: Sequence[str], name: str, weights: Array | None = None
) -> float:
    """Standard deviation of one of the unknowns; infinite where nothing is said."""
    covariance = covariance_matrix(seen, at, wanted, weights)
    if covariance is None:
        return float("inf")
    index = wanted.index(name)
    return float(np.sqrt(covariance[index, index]))


def with_open_focal(
    here: Array,
    seen: Observations,
    at: Unknowns,
    wanted: Sequence[str],
    weights: Array,
    camera: Intrinsics,
) -> Array:
    """A covariance (unknowns, unknowns) with what is not known of a focal length that was not solved for.

    Where that is much, it is looked at too short and too long, as far as the lines themselves leave it open
    (Gauss and Hermite's rule), since angles go with its quotient. What is given is then a 95 % half-width
    over that of a normal distribution: the lines may well know that the focal length that is held is wrong.
    """
    if "focal_px" in wanted or camera.focal_sd == 0:
        return here
    share = camera.focal_sd / camera.focal_px
    if share < SMALL_SHARE:
        by_focal = with_prior(seen, at, (*wanted, "focal_px"), weights)[1]
        carried = here @ by_focal[:, :-1].T @ by_focal[:, -1] * share
        return here + np.outer(carried, carried)
    with_it, names = with_focal(seen, wanted, camera)
    likeliest = least_squares(with_it, at, names, weights, until=SURE_STEP, rounds=12)
    joint = with_prior(with_it, likeliest, names, weights)[1]
    left = min(share, math.sqrt(_inverse(joint)[-1, -1]))
    slope = with_prior(seen, likeliest, names, weights)[1]
    by_focal = -_inverse(slope[:, :-1]) @ slope[:, :-1].T @ slope[:, -1]
    places, parts = np.polynomial.hermite_e.hermegauss(NODES)
    moved, sds = np.zeros((NODES, len(wanted))), np.zeros((NODES, len(wanted)))
    mixed = np.zeros_like(here)
    for row, (place, part) in enumerate(zip(places, parts / parts.sum(), strict=True)):
        steps = by_focal * place * left
        other = shifted(likeliest, dict(zip(wanted, steps, strict=True)))
        other = replace(other, focal_px=likeliest.focal_px * math.exp(place * left))
        off, slope = with_prior(seen, other, wanted, weights)
        covariance = _inverse(slope)
        moved[row] = _values(other, wanted) - _values(at, wanted) - covariance @ slope.T @ off
        sds[row] = np.sqrt(np.diag(covariance))
        mixed += part * (covariance + np.outer(moved[row], moved[row]))
    half = _half_widths(places, moved, sds)
    scale = half / (HALF_WIDTH_95 * np.sqrt(np.diag(mixed)))
    return mixed * np.outer(scale, scale)


def _inverse(slope: Array) -> Array:
    """The covariance (N, N) by slopes (rows, N) of unknowns that are determined."""
    normal = slope.T @ slope
    inverse = np.linalg.inv(normal + np.diag(1e-12 * np.diag(normal) + 1e-30))
    return np.asarray(inverse, np.float64)


def _half_widths(places: Array, moved: Array, sds: Array) -> Array:
    """The h (unknowns,) for which 95 % of each lies within +-h of where it was estimated: at a focal length
    that is so many standard deviations off, ``places`` (N,), it is ``moved`` (N, unknowns) by so much, with a
    scatter ``sds``."""
    from scipy.special import ndtr  # heavy, and needed for an assumed focal length alone

    grid = np.linspace(-3, 3, 41)
    weight = np.exp(-(grid**2) / 2)
    weight /= weight.sum()
    middle, sd = (
        np.stack([np.interp(grid, places, column) for column in one.T], axis=1) for one in (moved, sds)
    )
    low, high = np.zeros(moved.shape[1]), np.abs(middle).max(axis=0) + 4 * sd.max(axis=0)
    for _ in range(26):
        h = (low + high) / 2
        inside = weight @ (ndtr((h - middle) / sd) - ndtr((-h - middle) / sd)) >= 0.95
        low, high = np.where(inside, low, h), np.where(inside, h, high)
    half: Array = (low + high) / 2
    return half


def with_focal(
    seen: Observations, wanted: Sequence[str], camera: Intrinsics
) -> tuple[Observations, tuple[str, ...]]:
    """A focal length that is not exactly known is not held against the lines: it may give within its own
    standard deviation, as one observation more."""
    if "focal_px" in wanted or camera.focal_sd == 0:
        return seen, tuple(wanted)
    share = camera.focal_sd / camera.focal_px
    prior = replace(seen.prior, focal_px=camera.focal_px, focal_share=share)
    return replace(seen, prior=prior), (*wanted, "focal_px")


def _values(at: Unknowns, wanted: Sequence[str]) -> Array:
    """The unknowns as a vector; the focal length is none of them."""
    found = []
    for name in wanted:
        if name.startswith(("azimuth", "term")):
            kind, number = name.split()
            found.append((at.azimuths if kind == "azimuth" else at.terms)[int(number)])
        else:
            found.append(getattr(at, name))
    return np.array(found)
