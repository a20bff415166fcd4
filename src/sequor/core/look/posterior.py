"""How the camera was held, by all that was seen: a log posterior over roll and pitch, and its best modes.

People hold cameras nearly level, sometimes not: heavy-tailed priors. Uprights speak by the peak at the nadir,
each horizontal direction by lying 90° from it, each far edge by being level; each may be wrong, with a share
of its own."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from sequor.core.camera import Array, Indices
from sequor.core.look.directions import Direction, peak
from sequor.core.look.lines import Lines

ROLLS, PITCHES = np.arange(-24.0, 24.1, 1.0), np.arange(-48.0, 48.1, 2.0)
"""The grid in degrees that is looked through first."""

TEMPER = 0.5
"""Edges of one window hang together: what lines say counts half."""

GRID_DEG = 0.6
STEPS = ((0.25, 1.0, 0.3), (0.08, 0.3, 0.0), (0.03, 0.1, 0.0))
"""How a mode is refined: steps of roll and of pitch in degrees, and the least deviation that counts then."""
ASIDE = 4
MODES, LOOKED_THROUGH, APART_ROLL, APART_PITCH = 6, 400, 1.5, 5.0

STEEP_DEG, STEEPEST_LINES = 40.0, 320

FAR_HEIGHT_DEG = 8.0
"""How far from eye level a far edge may lie (standard deviation)."""


def nadir(roll: Array | float, pitch: Array | float) -> Array:
    """The direction straight down (..., 3) in camera axes of a camera held so, in degrees
    (docs/geometry.md)."""
    r, p = np.radians(roll), np.radians(pitch)
    return np.stack([np.cos(p) * np.sin(r), np.cos(p) * np.cos(r), -np.sin(p) + 0 * r], axis=-1)


def log_prior(roll: Array, pitch: Array) -> Array:
    """How people hold cameras: degrees, up to a constant (from the prototype's pictures; no source)."""
    return np.asarray(
        np.log(0.8 * _bell(roll, 2.5) + 0.2 * _bell(roll, 8.0))
        + np.log(0.75 * _bell(pitch, 8.0) + 0.25 * _bell(pitch, 20.0))
    )


def _bell(value: Array, sd: float | Array) -> Array:
    return np.asarray(np.exp(-0.5 * (value / sd) ** 2) / sd)


@dataclass(frozen=True)
class Recorded:
    """How the camera says that it was held: roll and pitch in degrees, None where it does not say."""

    roll: float | None
    pitch: float | None


RECORDED_SD, RECORDED_WRONG = 1.0, 0.1
"""Of what cameras record, in degrees (common practice, no source), and how often that is something else."""


@dataclass(frozen=True)
class FarEdge:
    """An edge that may be far and level: its ends (2, 2) in focal lengths from the principal point, the
    standard deviation of its slope in degrees, and how likely it is so."""

    ends: Array
    sd: float
    likely: float

    @cached_property
    def normal(self) -> Array:
        """The normal (3,), of length 1, of the plane that it spans with the camera."""
        across = np.cross([*self.ends[0], 1.0], [*self.ends[1], 1.0])
        return np.asarray(across / np.linalg.norm(across))

    @cached_property
    def ray(self) -> Array:
        """The ray (3,) to its middle, of length 1."""
        middle = np.array([*self.ends.mean(axis=0), 1.0])
        return np.asarray(middle / np.linalg.norm(middle))


@dataclass(frozen=True)
class Evidence:
    """What is seen: the ``lines``, which of them are ``steep``, the horizontal ``directions``, ``far``
    edges."""

    lines: Lines
    steep: Indices
    directions: list[Direction]
    far: list[FarEdge]
    recorded: Recorded | None = None

    def log_posterior(self, roll: Array, pitch: Array, least_deg: float) -> Array:
        """Of attitudes (M,) in degrees, up to a constant; ``least_deg``: nothing is taken for truer than
        that."""
        down = nadir(roll, pitch)
        found = log_prior(roll, pitch) + self.uprights(down, least_deg)
        for one in self.directions:
            off = np.degrees(np.arcsin(np.clip(down @ one.towards, -1, 1)))
            spread = np.degrees(np.sqrt(np.einsum("ki,ij,kj->k", down, one.covariance, down)))
            sd = np.maximum(spread, max(least_deg, 0.2))
            likely = 0.8 * (1 - np.exp(-one.strength / 25))
            speaks = min(2.0, TEMPER * one.strength / 12)
            found += speaks * np.log(1 - likely + likely * 60 * 0.4 * _bell(off, sd))
        for edge in self.far:
            off, height = level_off(down, edge)
            likely_here = edge.likely * np.exp(-0.5 * (height / FAR_HEIGHT_DEG) ** 2)
            found += np.log(1 - likely_here + likely_here * 40 * 0.4 * _bell(off, max(least_deg, 0.15)))
        if self.recorded is not None:
            for angle, told in ((roll, self.recorded.roll), (pitch, self.recorded.pitch)):
                if told is not None:
                    right = _bell(np.asarray(angle) - told, RECORDED_SD)
                    found += np.log(RECORDED_WRONG / 90 + (1 - RECORDED_WRONG) * 0.4 * right)
        return np.asarray(found)

    def uprights(self, down: Array, least_deg: float) -> Array:
        """The share of upright lines in it."""
        return TEMPER * peak(down, self.lines.some(self.steep), least_deg)


def level_off(down: Array, edge: FarEdge) -> tuple[Array, Array]:
    """By how many degrees an edge is not level under nadirs (..., 3), and how far below the eye it lies."""
    facing = edge.normal * (np.sign(edge.normal[1]) or 1.0)
    right = np.cross(down, edge.ray)
    right = right / np.linalg.norm(right, axis=-1, keepdims=True)
    off = np.degrees(np.arcsin(np.clip(right @ facing, -1, 1)))
    return np.asarray(off), np.asarray(np.degrees(np.arcsin(np.clip(down @ edge.ray, -1, 1))))


def steep_lines(lines: Lines) -> Indices:
    """The heaviest lines that may be upright."""
    steep = np.flatnonzero(np.abs(lines.way[:, 1]) > np.sin(np.radians(STEEP_DEG)))
    return np.asarray(steep[np.argsort(-lines.weight[steep], kind="stable")][:STEEPEST_LINES])


@dataclass(frozen=True)
class Mode:
    """An attitude in degrees that much speaks for: its log posterior."""

    roll: float
    pitch: float
    height: float


def modes(evidence: Evidence) -> list[Mode]:
    """The best attitudes that lie apart, the best first."""
    rolls, pitches = (one.ravel() for one in np.meshgrid(ROLLS, PITCHES, indexing="ij"))
    height = evidence.log_posterior(rolls, pitches, GRID_DEG)
    starts: list[int] = []
    for at in np.argsort(-height)[:LOOKED_THROUGH]:
        apart = (
            abs(rolls[at] - rolls[one]) > APART_ROLL or abs(pitches[at] - pitches[one]) > APART_PITCH
            for one in starts
        )
        if all(apart):
            starts.append(int(at))
        if len(starts) == MODES:
            break
    found = [_climbed(evidence, float(rolls[at]), float(pitches[at])) for at in starts]
    return sorted(found, key=lambda one: -one.height)


def _climbed(evidence: Evidence, roll: float, pitch: float) -> Mode:
    aside = np.arange(-ASIDE, ASIDE + 1)
    height = 0.0
    for step_roll, step_pitch, least in STEPS:
        rolls, pitches = (
            one.ravel()
            for one in np.meshgrid(roll + step_roll * aside, pitch + step_pitch * aside, indexing="ij")
        )
        heights = evidence.log_posterior(rolls, pitches, least)
        best = int(np.argmax(heights))
        roll, pitch, height = float(rolls[best]), float(pitches[best]), float(heights[best])
    return Mode(roll, pitch, height)
