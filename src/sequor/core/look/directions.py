"""Directions that many lines share: how strongly lines point at a vanishing point, and which there are.

A vanishing point is a unit vector (3,) in camera axes (x right, y down, z forward); its sign does not matter.
Lines are measured at their middles, on the sphere: S. T. Barnard, *Interpreting Perspective Images*,
Artificial Intelligence 21, 1983. Sequential sampling of pairs: M. A. Fischler and R. C. Bolles, *Random
Sample Consensus*, CACM 24, 1981."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from sequor.core.camera import Array, Indices
from sequor.core.look.lines import Lines

BAND_DEG = 8.0
"""What is farther from pointing at a vanishing point says nothing about it."""

SHARES = (0.08, 0.25, 0.5, 0.85)
"""Shares of the lines within the band that point at it: the best of them counts."""

UPRIGHT = 0.75
"""A direction with so much of it along y is no horizontal one."""

MOST, PAIRS, FEWEST, WEAKEST = 5, 700, 3, 14.0
NEAR_SDS, NEAR_DEG, LOOSE_DEG, SAMPLED_DEG = 2.5, 0.6, 0.8, 0.3

DIM = 1e-12


@dataclass(frozen=True)
class Direction:
    """A shared direction: its vanishing point, the covariance (3, 3) of that, the lines that point at it, and
    how strongly (a log likelihood ratio)."""

    towards: Array
    covariance: Array
    lines: Indices
    strength: float


def off_deg(towards: Array, middle: Array, way: Array) -> Array:
    """The angles in degrees (..., N) at the middles (N, 2) of lines between their ways and the ones to
    vanishing points (..., 3)."""
    return each_off_deg(np.asarray(towards)[..., None, :], middle, way)


def each_off_deg(at: Array, middle: Array, way: Array) -> Array:
    """The same with a vanishing point for each line (..., N, 3)."""
    x = at[..., 0] - at[..., 2] * middle[:, 0]
    y = at[..., 1] - at[..., 2] * middle[:, 1]
    sine = (way[:, 0] * y - way[:, 1] * x) / (np.hypot(x, y) + DIM)
    return np.asarray(np.degrees(np.arcsin(np.clip(sine, -1, 1))))


def peak(towards: Array, lines: Lines, least_deg: float = 0.0) -> Array:
    """How strongly lines point at vanishing points (..., 3): the log likelihood ratio of "some of them do,
    the others lie anyhow" against "all lie anyhow", of the lines within the band.

    A peak counts, a broad heap such as grass does not. ``least_deg``: no line is taken for truer than that.
    """
    off = off_deg(towards, lines.middle, lines.way)
    shape = off.shape[:-1]
    points = off.reshape(int(np.prod(shape)), len(lines))
    # Most lines lie outside the band of most points.
    row, line = np.nonzero(np.abs(points) < BAND_DEG)
    sd = np.maximum(lines.sd, least_deg)[line]
    ratio = 2 * BAND_DEG / (np.sqrt(2 * np.pi) * sd) * np.exp(-0.5 * (points[row, line] / sd) ** 2)
    weight = lines.weight[line]
    sums = [
        np.bincount(row, weight * np.log1p(share * (ratio - 1)), minlength=len(points)) for share in SHARES
    ]
    return np.asarray(np.maximum(0.0, np.max(sums, axis=0)).reshape(shape))


def refined(lines: Lines, chosen: Indices, towards: Array, rounds: int = 6) -> tuple[Array, Array]:
    """The vanishing point that some lines point at, by least squares of their normals with Cauchy weights,
    and its covariance (3, 3)."""
    some = lines.some(chosen)
    covariance = np.zeros((3, 3))
    for _ in range(rounds):
        off = off_deg(towards, some.middle, some.way) / some.sd
        scale = np.radians(some.sd) * np.maximum(np.linalg.norm(np.cross(some.ray, towards), axis=1), 0.02)
        weight = 1 / (1 + (off / 2) ** 2) / scale**2
        values, vectors = np.linalg.eigh((some.normal * weight[:, None]).T @ some.normal + 1e-9 * np.eye(3))
        towards = vectors[:, 0] * (np.sign(vectors[:, 0] @ towards) or 1.0)
        covariance = sum(
            (np.outer(vectors[:, at], vectors[:, at]) / max(values[at], 1e-9) for at in (1, 2)),
            np.zeros((3, 3)),
        )
    return np.asarray(towards), covariance


def pointing(lines: Lines, towards: Array, least_deg: float = NEAR_DEG) -> Indices:
    """The lines that point at a vanishing point."""
    off = np.abs(off_deg(towards, lines.middle, lines.way))
    return np.flatnonzero(off < np.maximum(NEAR_SDS * lines.sd, least_deg))


def horizontal_directions(lines: Lines, random: np.random.Generator) -> list[Direction]:
    """Directions of lines that do not point near the zenith, the strongest first, each with lines of its
    own."""
    free = np.arange(len(lines))
    found: list[Direction] = []
    while len(found) < MOST and len(free) > FEWEST:
        best = _sampled(lines, free, random)
        if best is None:
            break
        for _ in range(2):
            near = free[pointing(lines.some(free), best, LOOSE_DEG)]
            if len(near) < FEWEST:
                break
            best, covariance = refined(lines, near, best)
        near = free[pointing(lines.some(free), best)]
        strength = float(peak(best, lines.some(free)))
        if len(near) < FEWEST or strength < WEAKEST:
            break
        found.append(Direction(best, covariance, near, strength))
        free = np.setdiff1d(free, near)
    return found


def _sampled(lines: Lines, free: Indices, random: np.random.Generator) -> Array | None:
    """The strongest vanishing point of pairs of lines, heavy ones more often; None without any."""
    some = lines.some(free)
    pairs = random.choice(len(free), (PAIRS, 2), p=some.weight / some.weight.sum())
    crossed = np.cross(some.normal[pairs[:, 0]], some.normal[pairs[:, 1]])
    size = np.linalg.norm(crossed, axis=1)
    points = crossed[size > 1e-4] / size[size > 1e-4, None]
    points = points[np.abs(points[:, 1]) < UPRIGHT]
    if not len(points):
        return None
    return np.asarray(points[int(np.argmax(peak(points, some, SAMPLED_DEG)))])
