"""Readings against hand-worked triangles and simulation."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from sequor.core.references.base import nearer
from sequor.core.references.line import fold, lean_of, read, slope_of

TRIANGLES = [
    # right triangles worked by hand: (points, slope, lean, length)
    ([(0, 0), (400, 300)], 36.869898, -53.130102, 500),  # 3-4-5, right end lower
    ([(0, 300), (400, 0)], -36.869898, 53.130102, 500),  # right end taller
    ([(400, 0), (0, 300)], -36.869898, 53.130102, 500),  # the same line laid the other way round
    ([(10, 10), (10, 90)], 90.0, 0.0, 80),  # upright
    ([(0, 5), (90, 5)], 0.0, 90.0, 90),  # level
    ([(20, 0), (0, 99)], -78.578814, 11.421186, 101.0),  # 20-99-101, top end to the right
]


@pytest.mark.parametrize(("points", "slope", "lean", "length"), TRIANGLES)
def test_right_triangles(points: list[tuple[float, float]], slope: float, lean: float, length: float) -> None:
    reading = read(np.array(points, float))
    assert reading.slope_deg == pytest.approx(slope, abs=1e-6)
    assert reading.lean_deg == pytest.approx(lean, abs=1e-6)
    assert reading.length_px == pytest.approx(length)


@given(st.floats(-720, 720))
def test_fold_is_the_same_direction_in_its_range(degrees: float) -> None:
    folded = fold(degrees)
    assert -90 < folded <= 90
    assert np.tan(np.deg2rad(folded - degrees)) == pytest.approx(0, abs=1e-9)


@given(st.floats(-180, 180))
def test_slope_and_lean_are_a_right_angle_apart(degrees: float) -> None:
    along = np.array([np.cos(np.deg2rad(degrees)), np.sin(np.deg2rad(degrees))])
    apart = abs(fold(slope_of(along) - lean_of(along)))
    assume(apart < 90 - 1e-9 or apart > 90 - 1e-9)
    assert apart == pytest.approx(90, abs=1e-9)


def test_uncertainty_is_what_repeated_laying_shows() -> None:
    """Monte Carlo: both ends laid 4000 times with 2 px scatter across a line of 900 px."""
    rng = np.random.default_rng(3)
    ends = np.array([[0.0, 0.0], [900.0, 40.0]])
    along = (ends[1] - ends[0]) / np.linalg.norm(ends[1] - ends[0])
    across = np.array([-along[1], along[0]])
    slopes = [read(ends + rng.normal(0, 2, (2, 1)) * across, 2).slope_deg for _ in range(4000)]
    assert read(ends, 2).sd_deg == pytest.approx(np.std(slopes), rel=0.05)


def test_no_end_is_known_better_than_a_fifth_of_a_pixel() -> None:
    ends = np.array([[0.0, 0.0], [100.0, 0.0]])
    assert read(ends, 0.01).sd_deg == read(ends, 0.2).sd_deg


def test_more_points_are_read_by_total_least_squares() -> None:
    """Against numpy's singular value decomposition of the covariance, on a steep line where an ordinary
    regression of y on x would fail."""
    rng = np.random.default_rng(5)
    t = np.linspace(0, 500, 30)
    points = np.column_stack([100 + 0.05 * t, t]) + rng.normal(0, 0.5, (30, 2))
    values, vectors = np.linalg.eigh(np.cov(points.T))
    expected = slope_of(vectors[:, np.argmax(values)])
    assert read(points).slope_deg == pytest.approx(expected, abs=1e-9)


def test_coinciding_points_are_an_error() -> None:
    with pytest.raises(ValueError, match="in the same place"):
        read(np.array([[5.0, 5.0], [5.0, 5.0]]))


def test_a_witness_is_judged_by_what_it_is_nearer_to() -> None:
    steep = np.array([0.1, -1.0])
    assert nearer(steep) == lean_of(steep)
    assert nearer(steep[::-1]) == slope_of(steep[::-1])
