"""Cameras drawn as people aim them, and lines that a hand lays in their pictures: what a stated ± is held
against.

Pitch N(0, 8°), k1 N(0, 0.03) in half diagonals, the focal length as far from what is told as its source
allows (docs/geometry.md: the solve). The pictures are made with SciPy's rotations, nothing of the solver is used.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from worlds import rotation

from sequor.core.camera import Array, Attitude, Intrinsics, intrinsics
from sequor.core.distortion.models import Lens, no_lens
from sequor.core.estimation.priors import open_distortion
from sequor.core.estimation.solve import Solution, solve
from sequor.core.estimation.unknowns import ANGLES, Unknown
from sequor.core.references.reference import Reference
from sequor.core.references.registry import Kind

WIDTH, HEIGHT = 6000, 4000
PLAIN = no_lens(WIDTH, HEIGHT)
SIGMA = 1.5
HALF_WIDTH_95 = 1.959964

ALONG = {"level": np.array([1.0, 0.0, 0.0]), "plumb": np.array([0.0, 1.0, 0.0])}


@dataclass(frozen=True)
class Draw:
    """How a picture was taken, and what is known of it."""

    rng: np.random.Generator
    held: Attitude
    focal_px: float
    lens: Lens
    told: Intrinsics

    def line(self, name: str, kind: Kind, across: float, down: float, length: float = 1400.0) -> Reference:
        """A level or plumb thing through a place given as shares of the picture, as a hand lays it."""
        place = np.array([(across - 0.5) * WIDTH, (down - 0.5) * HEIGHT])
        far = ALONG[kind] @ rotation(self.held)
        way = far[:2] * self.focal_px - far[2] * place
        way = way / np.linalg.norm(way)
        return self.laid(name, kind, place + np.outer([-length / 2, length / 2], way))

    def leaning(self, line: Reference, degrees: float) -> Reference:
        """The same line turned by so much: a thing that really leans."""
        turn = np.deg2rad(degrees)
        matrix = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
        middle = line.points.mean(axis=0)
        return replace(line, points=(line.points - middle) @ matrix.T + middle)

    def rectangle(self) -> Reference:
        """A window that the camera looks at, upright and square to the level axes."""
        ahead = rotation(self.held) @ [0.0, 0.0, 1.0]
        x, y = ahead[:2] / ahead[2]
        wide, high = self.rng.uniform(0.2, 0.4), self.rng.uniform(0.15, 0.3)
        corners = [(x - wide, y - high), (x + wide, y - high), (x + wide, y + high), (x - wide, y + high)]
        rays = np.array([(*corner, 1.0) for corner in corners]) @ rotation(self.held)
        return self.laid("window", "rectangle", self.focal_px * rays[:, :2] / rays[:, 2:])

    def laid(self, name: str, kind: Kind, ideal: Array) -> Reference:
        """Ideal points about the middle (N, 2), as the lens records them and the hand meets them."""
        recorded = self.lens.distorted(ideal + [WIDTH / 2, HEIGHT / 2])
        if kind == "rectangle":
            return Reference(name, kind, recorded + self.rng.normal(0, SIGMA, recorded.shape), SIGMA)
        along = (recorded[1] - recorded[0]) / np.hypot(*(recorded[1] - recorded[0]))
        off = self.rng.normal(0, SIGMA, (2, 1)) * [-along[1], along[0]]
        return Reference(name, kind, recorded + off, SIGMA)

    def place(self, low: float = 0.05, high: float = 0.95) -> float:
        return float(self.rng.uniform(low, high))


def _apart(draw: Draw, share: float) -> list[Reference]:
    first = draw.place(0.03, 0.97 - share)
    return [draw.line(f"wall {at}", "plumb", first + at * share, draw.place(0.25, 0.75)) for at in (0, 1)]


def _three_and_a_level(draw: Draw) -> list[Reference]:
    walls = [draw.line(f"wall {n}", "plumb", draw.place(), draw.place(0.25, 0.75)) for n in range(3)]
    return [*walls, draw.line("sill", "level", draw.place(0.2, 0.8), draw.place())]


def _one_wall(draw: Draw, low: float = 0.05, high: float = 0.95) -> list[Reference]:
    return [draw.line("wall", "plumb", draw.place(low, high), draw.place(0.25, 0.75))]


def horizon_and_wall(draw: Draw) -> list[Reference]:
    """A far horizon and one wall off the middle."""
    side = draw.rng.choice([draw.place(0.05, 0.3), draw.place(0.7, 0.95)])
    return [
        draw.line("horizon", "level", draw.place(0.3, 0.7), draw.place(0.3, 0.7), 3000),
        draw.line("wall", "plumb", side, draw.place(0.25, 0.75)),
    ]


def with_a_leaning_wall(draw: Draw) -> list[Reference]:
    """A horizon and three walls in the thirds of the picture, of which one really leans 3°."""
    thirds = [(number + draw.place(0.15, 0.85)) / 3 for number in range(3)]
    walls = [
        draw.line(f"wall {number}", "plumb", across, draw.place(0.35, 0.65), 2000)
        for number, across in enumerate(thirds)
    ]
    which = int(draw.rng.integers(3))
    walls[which] = replace(draw.leaning(walls[which], 3.0 * draw.rng.choice([-1, 1])), id="leaning")
    return [draw.line("horizon", "level", draw.place(0.3, 0.7), draw.place(0.3, 0.7), 3000), *walls]


CASES: dict[str, Callable[[Draw], list[Reference]]] = {
    "one plumb anywhere": _one_wall,
    "one plumb in the middle fifth": lambda draw: _one_wall(draw, 0.4, 0.6),
    "one level far away": lambda draw: [
        draw.line("horizon", "level", draw.place(0.2, 0.8), draw.place(), 3000)
    ],
    "level + plumb off the middle": horizon_and_wall,
    "two plumb 5 % apart": lambda draw: _apart(draw, 0.05),
    "two plumb 60 % apart": lambda draw: _apart(draw, 0.6),
    "three plumb + one level": _three_and_a_level,
    "rectangle": lambda draw: [draw.rectangle()],
}

FOCALS = ("EXIF", "assumed", "free")


def drawn(rng: np.random.Generator, focal: str, lens_known: bool, aside: bool, pitch_sd: float = 8.0) -> Draw:
    """A camera drawn from the priors."""
    yaw = float(rng.normal(0, 12)) if aside else 0.0
    held = Attitude(float(rng.uniform(-8, 8)), float(rng.normal(0, pitch_sd)), yaw)
    told = intrinsics(WIDTH, HEIGHT, focal_35mm=24 if focal == "EXIF" else None)
    true_focal = told.focal_px * float(np.exp(rng.normal(0, told.focal_sd / told.focal_px)))
    lens = PLAIN if lens_known else replace(PLAIN, k1=float(rng.normal(0, 0.03)))
    return Draw(rng, held, true_focal, lens, told)


def free_in(focal: str) -> list[Unknown]:
    return [*ANGLES[:2], "focal_px"] if focal == "free" else list(ANGLES[:2])


def solved(draw: Draw, lines: list[Reference], focal: str, lens_known: bool) -> Solution:
    sd = 0.0 if lens_known else open_distortion(draw.told)
    return solve(lines, free_in(focal), draw.told, PLAIN, sd)


@dataclass(frozen=True)
class Honesty:
    """Of every angle: the errors and the stated standard deviations, (draws, 2); and the share called a
    disagreement."""

    angles: dict[str, Array]
    disagreed: float

    def covered(self, angle: str) -> float:
        """The share of stated 95 % intervals that hold the truth."""
        error, sd = self.angles[angle].T
        return float(np.mean(np.abs(error) <= HALF_WIDTH_95 * sd))


def honesty(case: str, focal: str, lens_known: bool, draws: int, seed: int = 5) -> Honesty:
    """Draw, lay, solve, compare."""
    rng = np.random.default_rng(seed)
    found: dict[str, list[tuple[float, float]]] = {angle: [] for angle in ANGLES}
    disagreed = 0
    for _ in range(draws):
        draw = drawn(rng, focal, lens_known, aside=case == "rectangle")
        solution = solved(draw, CASES[case](draw), focal, lens_known)
        disagreed += bool(solution.conflicts)
        if solution.known is None:
            continue
        for angle, sd in solution.sd_known.items():
            if sd is not None:
                error = getattr(solution.known.attitude, angle) - getattr(draw.held, angle)
                found[angle].append((error, sd))
    return Honesty({angle: np.array(rows) for angle, rows in found.items() if rows}, disagreed / draws)
