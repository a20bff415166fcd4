"""Brown's model against OpenCV's."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from worlds import opencv_terms

from sequor.core.distortion.models import Lens, database_lens, half_diagonal, no_lens

FOCAL = 2000.0
small = st.floats(-0.03, 0.03)


@given(st.floats(-0.12, 0.12), small, small, st.floats(-0.004, 0.004), st.floats(-0.004, 0.004))
def test_both_ways_agree_with_opencv(k1: float, k2: float, k3: float, p1: float, p2: float) -> None:
    """cv2.projectPoints bends, cv2.undistortPoints straightens; inside half of the half diagonal, where OpenCV's
    fixed-point iteration converges. The inverse returns the points to 1e-9 px."""
    lens = Lens((1500, 1000), 1800.0, k1, k2, k3, p1, p2)
    x, y = np.meshgrid(np.linspace(900, 2100, 5), np.linspace(600, 1400, 5))
    ideal = np.column_stack([x.ravel(), y.ravel()])
    matrix = np.array([[FOCAL, 0, 1500], [0, FOCAL, 1000], [0, 0, 1]])
    rays = np.column_stack([(ideal - [1500, 1000]) / FOCAL, np.ones(len(ideal))])
    seen = cv2.projectPoints(rays, np.zeros(3), np.zeros(3), matrix, opencv_terms(lens, FOCAL))[0][:, 0]
    assert lens.distorted(ideal) == pytest.approx(seen, abs=1e-7)
    criteria = (cv2.TERM_CRITERIA_COUNT | cv2.TERM_CRITERIA_EPS, 200, 1e-14)
    back = cv2.undistortPoints(seen[:, None], matrix, opencv_terms(lens, FOCAL), P=matrix, criteria=criteria)
    assert lens.undistorted(seen) == pytest.approx(back[:, 0], abs=1e-5)
    assert lens.undistorted(lens.distorted(ideal)) == pytest.approx(ideal, abs=1e-9)


def test_slopes_are_those_of_the_inverse() -> None:
    lens = Lens((1500, 1000), 1800.0, k1=-0.1, p1=0.002)
    points = np.array([[300.0, 400.0], [2500.0, 1800.0]])
    _, slopes = lens.undistorted_with_slopes(points)
    for axis, step in enumerate(np.eye(2) * 0.01):
        numeric = (lens.undistorted(points + step) - lens.undistorted(points - step)) / 0.02
        assert slopes[:, :, axis] == pytest.approx(numeric, abs=1e-6)


def test_beyond_the_fold_there_is_nothing() -> None:
    """With k1 = -0.16 the warp stops growing at r = 1 / sqrt(3 * 0.16) = 1.443, recorded at 0.9623."""
    lens = Lens((1500, 1000), 1000.0, k1=-0.16)
    inside, outside = lens.undistorted(np.array([[1500 + 961.0, 1000.0], [1500 + 963.0, 1000.0]]))
    assert np.all(np.isfinite(inside)) and np.all(np.isnan(outside))


def test_no_lens_changes_nothing() -> None:
    points = np.array([[1.0, 2.0], [3000.0, -5.0]])
    assert no_lens(3000, 2000).undistorted(points) is points


def test_far_beyond_the_fold_nothing_comes_back() -> None:
    """With k1 = -0.4 the polynomial reaches a recorded radius of 1 once more at r = -2, turned by 180 degrees."""
    lens = Lens((1500, 1000), 1000.0, k1=-0.4)
    assert np.all(np.isnan(lens.undistorted(np.array([[2500.0, 1000.0], [500.0, 1000.0]]))))


def test_reach_is_where_taking_out_enlarges_four_times() -> None:
    """For k1 alone det J = (1 + k1 r^2)(1 + 3 k1 r^2); at the reach its root is 1/4. Found here by numpy's roots."""
    k1 = -0.16
    roots = np.roots([3 * k1 * k1, 0, 4 * k1, 0, 1 - 1 / 16])
    first = min(root.real for root in roots if abs(root.imag) < 1e-12 and root.real > 0)
    assert Lens((0, 0), 1.0, k1=k1).reach == pytest.approx(first, abs=1e-5)
    assert Lens((0, 0), 1.0, k1=k1, p1=1e-9).reach == pytest.approx(first, abs=1e-4)
    assert np.isinf(Lens((0, 0), 1.0, k1=0.1).reach)


MODELS = [
    Lens((1500, 1000), 1800.0, k1=-0.1, k2=0.01, p1=0.001, p2=-0.002),
    database_lens("poly3", (1500, 1000), 1000.0, [-0.04]),
    database_lens("poly5", (1500, 1000), 1000.0, [-0.03, 0.005]),
    database_lens("ptlens", (1500, 1000), 1000.0, [0.0237, -0.0743, 0.0346]),
]


@pytest.mark.parametrize("lens", MODELS, ids=["brown", "poly3", "poly5", "ptlens"])
def test_every_model_keeps_the_middle_and_its_scale(lens: Lens) -> None:
    """To 0.1 %, measured over a hundred pixels and at the point itself, and goes forth and back."""
    middle = np.array([[1500.0, 1000.0]])
    assert lens.distorted(middle) == pytest.approx(middle, abs=1e-9)
    _, slopes = lens.undistorted_with_slopes(middle)
    assert slopes[0] == pytest.approx(np.eye(2), abs=1e-3)
    points = np.random.default_rng(3).uniform([0, 0], [3000, 2000], (200, 2))
    assert lens.undistorted(lens.distorted(points)) == pytest.approx(points, abs=1e-7)


def test_the_odd_terms_have_slopes_too() -> None:
    lens = MODELS[3]
    points = np.array([[300.0, 400.0], [2500.0, 1800.0], [1500.5, 1000.0]])
    _, slopes = lens.undistorted_with_slopes(points)
    for axis, step in enumerate(np.eye(2) * 0.01):
        numeric = (lens.undistorted(points + step) - lens.undistorted(points - step)) / 0.02
        assert slopes[:, :, axis] == pytest.approx(numeric, abs=1e-5)


def test_a_model_that_is_none_of_the_database() -> None:
    with pytest.raises(ValueError, match="not one of"):
        database_lens("brown", (0, 0), 1.0, [0.1])
    with pytest.raises(ValueError, match="nothing of the scale"):
        database_lens("ptlens", (0, 0), 1.0, [0.5, 0.5, 0.5])


def test_scaled_is_the_same_lens_for_a_smaller_copy() -> None:
    points = np.array([[300.0, 200.0], [2900.0, 1950.0]])
    for lens in MODELS:
        assert lens.scaled(0.1).distorted(points / 10) * 10 == pytest.approx(lens.distorted(points), abs=1e-9)
    assert half_diagonal(3000, 2000) == pytest.approx(1802.7756)
