"""Brown's model against OpenCV's."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from worlds import opencv_terms

from sequor.core.lens import Lens, no_lens

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
    """With k1 = -0.16 the mapping stops growing at r = 1 / sqrt(3 * 0.16) = 1.443, recorded at 0.9623."""
    lens = Lens((1500, 1000), 1000.0, k1=-0.16)
    inside, outside = lens.undistorted(np.array([[1500 + 961.0, 1000.0], [1500 + 963.0, 1000.0]]))
    assert np.all(np.isfinite(inside)) and np.all(np.isnan(outside))


def test_no_lens_changes_nothing() -> None:
    points = np.array([[1.0, 2.0], [3000.0, -5.0]])
    assert no_lens(3000, 2000).undistorted(points) is points
