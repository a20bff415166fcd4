"""Photos that share how the camera was held, or their lens: what they tell together, and whether they do.

The sizes of intervals are checked by drawing, the tests of sharing against SciPy's chi-square, and the mean
against one solve of all lines at once.
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from scipy.stats import chi2
from worlds import laid, photographed

from sequor.core.camera import Attitude, Intrinsics, intrinsics
from sequor.core.distortion.models import half_diagonal, no_lens
from sequor.core.estimation.series import (
    FLOOR_DEG,
    Shared,
    Telling,
    attitude_telling,
    lens_telling,
    put_together,
)
from sequor.core.estimation.solve import Solution, solve
from sequor.core.references.reference import Reference

WIDTH, HEIGHT, FOCAL, SIGMA = 6000, 4000, 4200.0, 1.5
CAMERA = intrinsics(WIDTH, HEIGHT, photo_focal_px=FOCAL)
TRUTH = Attitude(1.3, 6.0, 0.0)
NO_LENS = no_lens(WIDTH, HEIGHT)


def lines(rng: np.random.Generator, attitude: Attitude, level: int = 1, plumb: int = 2) -> list[Reference]:
    """Level and plumb things ten units away, wherever they are seen, their ends off by SIGMA across."""
    found: list[Reference] = []
    while len(found) < level + plumb:
        kind = "level" if len(found) < level else "plumb"
        x, y = rng.uniform(-6, 6), rng.uniform(-5, 4)
        reach = rng.uniform(0.5, 1.8)
        other = (x + reach, y, 10.0) if kind == "level" else (x, y + reach, 10.0)
        ends = photographed([(x, y, 10.0), other], attitude, FOCAL, NO_LENS)
        if (ends < 20).any() or (ends > (WIDTH - 20, HEIGHT - 20)).any():
            continue
        along = (ends[1] - ends[0]) / np.linalg.norm(ends[1] - ends[0])
        off = rng.normal(0, SIGMA, (2, 1)) * np.array([-along[1], along[0]])
        found.append(laid(f"r{len(found)}", kind, ends + off, SIGMA))
    return found


def solved(references: list[Reference], camera: Intrinsics = CAMERA) -> Solution:
    return solve(references, ["roll", "pitch"], camera)


def together(rng: np.random.Generator, count: int, odd_by: float = 0.0) -> Shared:
    told = []
    for number in range(count):
        turn = replace(TRUTH, roll=TRUTH.roll + (odd_by if number == count // 2 else 0.0))
        one = attitude_telling(solved(lines(rng, turn)))
        assert one is not None
        told.append(one)
    return put_together(told, FLOOR_DEG)


@pytest.mark.parametrize(("count", "draws"), [(2, 200), (5, 300), (20, 60)])
def test_intervals_hold_what_they_say(count: int, draws: int) -> None:
    rng = np.random.default_rng(count)
    held = []
    for _ in range(draws):
        shared = together(rng, count)
        off = shared.values - (TRUTH.roll, TRUTH.pitch)
        held.append(np.abs(off) < 1.959964 * np.sqrt(np.diag(shared.covariance)))
    share = np.mean(held, axis=0)
    # 92 to 98 %, and three standard errors of so many draws.
    slack = 3 * math.sqrt(0.05 * 0.95 / draws) if draws < 300 else 0.0
    assert np.all(share >= 0.92 - slack) and np.all(share <= 0.98 + slack), share


def test_more_photos_tell_more() -> None:
    rng = np.random.default_rng(7)
    sds = {n: np.median([together(rng, n).sd(0) for _ in range(20)]) for n in (2, 5, 20)}
    assert sds[5] < 0.75 * sds[2] and sds[20] < 0.6 * sds[5]


def test_the_mean_is_one_solve_of_all_lines() -> None:
    rng = np.random.default_rng(3)
    for _ in range(5):
        drawn = [lines(rng, TRUTH, 2, 3) for _ in range(4)]
        told = [attitude_telling(solved(each)) for each in drawn]
        shared = put_together([one for one in told if one is not None])
        stacked = [replace(one, id=f"{n} {one.id}") for n, each in enumerate(drawn) for one in each]
        whole = solved(stacked).attitude
        assert shared.values == pytest.approx([whole.roll, whole.pitch], abs=0.05)


def test_a_photo_that_was_turned_is_named_and_others_are_not() -> None:
    rng = np.random.default_rng(11)
    turned = [together(rng, 5, odd_by=2.0) for _ in range(40)]
    assert np.mean([one.refused for one in turned]) > 0.9
    assert np.mean([one.odd == 2 for one in turned]) > 0.9
    alike = [together(rng, 5) for _ in range(100)]
    assert np.mean([one.refused for one in alike]) <= 0.06
    assert np.mean([one.odd is not None for one in alike]) <= 0.06


def test_the_smallest_turn_that_would_be_seen_is_seen_so_often() -> None:
    rng = np.random.default_rng(5)
    noticed = float(np.median([together(rng, 5).noticed[0] for _ in range(40)]))
    seen = np.mean([together(rng, 5, odd_by=noticed).refused for _ in range(80)])
    assert 0.6 <= seen <= 0.95


def test_the_chance_is_that_of_chi_square() -> None:
    told = [
        Telling(np.array([value, 0.0]), np.diag([4.0, 0.0]), np.zeros((2, 2))) for value in (0.0, 1.0, 2.0)
    ]
    shared = put_together(told)
    assert shared.values[0] == pytest.approx(1.0) and math.isnan(shared.values[1])
    assert shared.chi_square == pytest.approx(8.0) and shared.freedom == 2
    assert shared.more == pytest.approx(chi2.sf(8.0, 2))
    # Their scatter is twice what they tell, so they tell half as much together.
    assert shared.sd(0) == pytest.approx(math.sqrt(3.0 / 12))


def test_what_they_have_in_common_does_not_average_out() -> None:
    """A focal length that nobody knows is wrong for all of them alike."""
    rng = np.random.default_rng(2)
    assumed = intrinsics(WIDTH, HEIGHT)
    few, many = (
        put_together(
            [
                one
                for _ in range(n)
                if (one := attitude_telling(solved(lines(rng, TRUTH, 1, 3), assumed))) is not None
            ]
        )
        for n in (2, 30)
    )
    known = put_together(
        [one for _ in range(30) if (one := attitude_telling(solved(lines(rng, TRUTH, 1, 3)))) is not None]
    )
    assert many.sd(1) > 3 * known.sd(1)
    assert many.sd(1) > 0.4 * few.sd(1)


def test_photos_without_verticals_tell_the_tilt_alone() -> None:
    rng = np.random.default_rng(4)
    told = [attitude_telling(solved(lines(rng, TRUTH, 2, 0))) for _ in range(3)]
    shared = put_together([one for one in told if one is not None])
    assert math.isnan(shared.values[1]) and shared.freedom == 2
    assert attitude_telling(solved([])) is None and lens_telling(solved([])) is None


def test_a_lens_is_told_by_the_straight_things_of_all() -> None:
    rng = np.random.default_rng(9)
    lens = replace(NO_LENS, k1=-0.06)
    corner = half_diagonal(WIDTH, HEIGHT)
    alone, shared_sd, off = [], [], []
    for _ in range(30):
        told = []
        for _ in range(5):
            things = []
            for number in range(2):
                a = rng.uniform([300, 300], [WIDTH - 300, HEIGHT - 300])
                turn, length = rng.uniform(0, math.pi), rng.uniform(1500, 3000)
                b = np.clip(
                    a + length * np.array([math.cos(turn), math.sin(turn)]), 150, [WIDTH - 150, HEIGHT - 150]
                )
                ideal = a + (b - a) * np.linspace(0, 1, 5)[:, None]
                things.append(
                    laid(
                        f"s{number}", "straight", lens.distorted(ideal) + rng.normal(0, SIGMA, (5, 2)), SIGMA
                    )
                )
            one = lens_telling(solve(things, ["roll", "pitch", "k1"], CAMERA, NO_LENS))
            if one is not None:
                told.append(one)
                alone.append(1 / math.sqrt(one.own[0, 0]))
        shared = put_together(told)
        shared_sd.append(shared.sd(0))
        off.append(abs(shared.values[0] + 0.06) / shared.sd(0))
    assert corner > 0 and np.median(shared_sd) < 0.6 * np.median(alone)
    assert np.mean(np.array(off) < 1.96) >= 0.85
