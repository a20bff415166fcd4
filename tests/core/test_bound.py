"""The solve against the Cramér-Rao bound: 2,000 noisy draws of each mix of references.

The bound is made here from the equations alone, with OpenCV's camera, SciPy's rotations and numerical slopes:
nothing of the solver is used. An efficient estimator reaches it for small errors, and its 95 % intervals cover 95 %
(S. M. Kay, *Fundamentals of Statistical Signal Processing: Estimation Theory*, 1993, ch. 3 and 7; from memory).
"""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace

import cv2
import numpy as np
import pytest
from worlds import Point, opencv_terms, photographed, rotation

from sequor.core.camera import Array, Attitude, Intrinsics
from sequor.core.distortion.models import Lens, no_lens
from sequor.core.estimation.solve import solve
from sequor.core.estimation.unknowns import Unknown
from sequor.core.references.reference import Reference
from sequor.core.references.registry import Kind

DRAWS = 2000
SIGMA = 0.8
WIDTH, HEIGHT, FOCAL = 6000, 4000, 4200.0
EXIF_SD = 0.0145 * FOCAL
STRAIGHT = no_lens(WIDTH, HEIGHT)
BARREL = replace(STRAIGHT, k1=-0.06, k2=0.01)


@dataclass(frozen=True)
class Mix:
    """Things in the world (level axes: x right, y down, z ahead), how the camera was held, and what is free."""

    things: Sequence[tuple[Kind, Sequence[Point]]]
    angles: dict[str, float]
    shape: tuple[float, float] | None = None

    @property
    def free(self) -> tuple[Unknown, ...]:
        return ("roll", "pitch", "yaw") if self.angles["yaw"] else ("roll", "pitch")


LEVELS = [
    ("level", [(-3.0, 1.5, 10.0), (3.2, 1.5, 10.0)]),
    ("level", [(-2.0, -3.0, 10.0), (4.0, -3.0, 10.0)]),
]
PLUMBS = [("plumb", [(x, 2.2, 10.0), (x, -4.0, 10.0)]) for x in (-4.0, 4.5, 0.5)]
KERBS = [("receding", [(x, 1.6, 6.0), (x + 1.4, 1.6, 14.0)]) for x in (-2.4, 1.2)]
UPRIGHT = {"roll": 2.3, "pitch": 9.0, "yaw": 0.0}
ASIDE = {"roll": -1.4, "pitch": 8.0, "yaw": 20.0}
WINDOW = [("rectangle", [(-3.5, -3.5, 10.0), (3.0, -3.5, 10.0), (3.0, 1.5, 10.0), (-3.5, 1.5, 10.0)])]
MIXES = {
    "2 level + 2 plumb": Mix(LEVELS + PLUMBS[:2], UPRIGHT),  # type: ignore[operator]
    "3 plumb": Mix(PLUMBS, UPRIGHT),  # type: ignore[arg-type]
    "receding pair + 1 plumb": Mix(KERBS + PLUMBS[2:], UPRIGHT),  # type: ignore[operator]
    "rectangle": Mix(WINDOW, ASIDE, shape=(6.5, 5.0)),  # type: ignore[arg-type]
}


def held(values: dict[str, float]) -> Attitude:
    return Attitude(values["roll"], values["pitch"], values["yaw"])


def equations(mix: Mix, values: dict[str, float], ends: list[Array], azimuth: float, shape: bool) -> Array:
    """What must vanish, written down anew from docs/geometry.md: one number for every line or side."""
    found: list[float] = []
    turn = rotation(held(values))
    for (kind, _), points in zip(mix.things, ends, strict=True):
        rays = (
            np.column_stack([(points - [WIDTH / 2, HEIGHT / 2]) / values["focal_px"], np.ones(len(points))])
            @ turn.T
        )
        if kind == "rectangle":
            for side in range(4):
                normal = np.cross(rays[side], rays[(side + 1) % 4])
                found.append(normal[side % 2])
            if shape and mix.shape:
                plane = rays[:, :2] / rays[:, 2:]
                side_lengths = np.linalg.norm(plane - np.roll(plane, -1, axis=0), axis=1)
                found.append(
                    np.log(side_lengths[::2].sum() / side_lengths[1::2].sum() * mix.shape[1] / mix.shape[0])
                )
            continue
        normal = np.cross(rays[0], rays[1])
        way = {"level": [1, 0, 0], "plumb": [0, 1, 0], "receding": [np.sin(azimuth), 0, np.cos(azimuth)]}[
            kind
        ]
        found.append(float(normal @ way))
    return np.array(found)


def slopes(function: Callable[[Array], Array], at: Array, step: float) -> Array:
    """Central differences of a function of a vector."""
    steps = np.eye(len(at)) * step
    return np.stack([(function(at + one) - function(at - one)) / (2 * step) for one in steps], axis=-1)


def bound(mix: Mix, lens: Lens, focal_sd: float, focal_free: bool) -> dict[str, float]:
    """The least standard deviation of every angle in degrees: (J' (A S A')^-1 J)^-1, with an open azimuth for
    receding lines. A focal length that is known with an error is held (docs/geometry.md), and its error carried over."""
    names = [*mix.free, "focal_px", "azimuth"]
    receding = mix.things[0][0] == "receding"
    azimuth = float(np.arctan2(1.4, 8.0))
    recorded = [photographed(points, held(mix.angles), FOCAL, lens) for _, points in mix.things]

    def ideal(points: Array) -> Array:
        camera = np.array([[FOCAL, 0, WIDTH / 2], [0, FOCAL, HEIGHT / 2], [0, 0, 1]])
        criteria = (cv2.TERM_CRITERIA_COUNT | cv2.TERM_CRITERIA_EPS, 100, 1e-14)
        found = cv2.undistortPoints(
            points[:, None], camera, opencv_terms(lens, FOCAL), P=camera, criteria=criteria
        )
        return np.asarray(found[:, 0], np.float64)

    def of_values(vector: Array) -> Array:
        values = {**mix.angles, **dict(zip(names, vector, strict=True))}
        return equations(mix, values, [ideal(points) for points in recorded], values["azimuth"], focal_free)

    def of_errors(vector: Array) -> Array:
        moved, taken = [], 0
        for (kind, _), points in zip(mix.things, recorded, strict=True):
            if kind == "rectangle":
                moved.append(points + vector[taken : taken + 8].reshape(4, 2))
                taken += 8
            else:
                along = (points[1] - points[0]) / np.hypot(*(points[1] - points[0]))
                moved.append(points + vector[taken : taken + 2, None] * [-along[1], along[0]])
                taken += 2
        values = {**mix.angles, "focal_px": FOCAL}
        return equations(mix, values, [ideal(points) for points in moved], azimuth, focal_free)

    at = np.array([*(mix.angles[name] for name in mix.free), FOCAL, azimuth])
    by_value = np.column_stack(
        [
            slopes(lambda v, k=k: of_values(np.where(np.arange(len(at)) == k, v, at)), at[k : k + 1], 1e-4)[
                :, 0
            ]
            for k in range(len(at))
        ]
    )
    by_error = slopes(
        of_errors, np.zeros(sum(8 if kind == "rectangle" else 2 for kind, _ in mix.things)), 1e-2
    )
    information = by_value.T @ np.linalg.solve(SIGMA**2 * by_error @ by_error.T, by_value)
    known = [True] * len(mix.free) + [focal_free, receding]
    covariance = np.linalg.inv(information[np.ix_(known, known)])
    if focal_sd:
        carried = covariance @ information[known, len(mix.free)] * focal_sd
        covariance += np.outer(carried, carried)
    return {name: float(np.sqrt(covariance[index, index])) for index, name in enumerate(mix.free)}


def draw(mix: Mix, clean: list[Array], rng: np.random.Generator) -> list[Reference]:
    """The references as a hand lays them: every end off by SIGMA across the line."""
    laid = []
    for index, ((kind, _), points) in enumerate(zip(mix.things, clean, strict=True)):
        if kind == "rectangle":
            laid.append(Reference("r", kind, points + rng.normal(0, SIGMA, (4, 2)), SIGMA, shape=mix.shape))
            continue
        along = (points[1] - points[0]) / np.hypot(*(points[1] - points[0]))
        off = rng.normal(0, SIGMA, (2, 1)) * [-along[1], along[0]]
        group = "kerbs" if kind == "receding" else None
        laid.append(Reference(f"r{index}", kind, points + off, SIGMA, group=group))
    return laid


def errors(name: str, focal_free: bool, sd: float, lens: Lens, seed: int) -> tuple[Array, bool]:
    """Of half of the draws: every angle's error and its reported standard deviation, (draws, angles, 2), and whether
    the focal length was found in all of them."""
    mix, rng = MIXES[name], np.random.default_rng(seed)
    free: list[Unknown] = [*mix.free, *(["focal_px"] if focal_free else [])]  # type: ignore[list-item]
    clean = [photographed(points, held(mix.angles), FOCAL, lens) for _, points in mix.things]
    rows, found_focal = [], True
    for _ in range(DRAWS // 2):
        camera = Intrinsics(
            WIDTH, HEIGHT, FOCAL + rng.normal(0, sd) if sd else FOCAL, sd, "35mm" if sd else "photo"
        )
        found = solve(draw(mix, clean, rng), free, camera, lens)
        found_focal &= "focal_px" not in found.undetermined
        rows.append(
            [
                (getattr(found.attitude, angle) - mix.angles[angle], found.sd[angle] or 0.0)
                for angle in mix.free
            ]
        )
    return np.array(rows), found_focal


@pytest.mark.parametrize("lens", [STRAIGHT, BARREL], ids=["straight", "barrel"])
@pytest.mark.parametrize("focal", ["known", "EXIF", "free"])
@pytest.mark.parametrize("name", MIXES)
def test_every_angle_reaches_the_bound_and_is_covered(
    name: str, focal: str, lens: Lens, pool: ProcessPoolExecutor
) -> None:
    """Each angle's error within 10 % of the bound (whose own sampling error is 1.6 %), and its 95 % interval holding
    the truth in 92 to 98 % of the draws. A focal length that is free but not determined stays as it was given."""
    mix, focal_free = MIXES[name], focal == "free"
    sd = EXIF_SD if focal == "EXIF" else 0.0
    determined = focal_free and name == "rectangle"
    halves = [pool.submit(errors, name, focal_free, sd, lens, seed) for seed in (29, 31)]
    rows = np.concatenate([half.result()[0] for half in halves])
    assert all(half.result()[1] for half in halves) == (determined or not focal_free)
    least = bound(mix, lens, sd, determined)
    for index, angle in enumerate(mix.free):
        error, reported = rows[:, index].T
        assert np.sqrt(np.mean(error**2)) == pytest.approx(least[angle], rel=0.1), angle
        assert 0.92 <= np.mean(np.abs(error) <= 1.959964 * reported) <= 0.98, angle


@pytest.fixture(scope="module")
def pool() -> Iterator[ProcessPoolExecutor]:
    """One process for each core."""
    with ProcessPoolExecutor(os.cpu_count(), multiprocessing.get_context("fork")) as executor:
        yield executor
