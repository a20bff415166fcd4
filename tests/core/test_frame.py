"""The frame against closed forms, a linear programme, and the worked figures of the model."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import linprog

from sequor.core.camera import Array, Attitude, intrinsics
from sequor.core.frame import HalfPlanes, Rectangle, carry, cost, largest, shrink_into
from sequor.core.mapping import Mapping


def rolled(degrees: float, width: int = 3000, height: int = 2000) -> Mapping:
    return Mapping.compile(intrinsics(width, height), Attitude(roll=degrees), Attitude())


def middle(mapping: Mapping) -> Array:
    return np.array([mapping.width / 2, mapping.height / 2])


def test_worked_figures() -> None:
    """GEOMETRY, the frame: roll 2.30 degrees of 3000 x 2000. Largest frame 2831 x 1887 keeps 89.1 %; a frame of
    the photo's own size keeps 97.9 % with 2.1 % empty; keeping everything takes 3077 x 2118 with 8.0 % empty."""
    mapping = rolled(2.3)
    best = largest(mapping.outline(), 3000, 2000, middle(mapping))
    assert (best.inwards().width, best.inwards().height) == (2831, 1887)
    assert round(100 * cost(best, mapping).kept, 1) == 89.1
    own = cost(Rectangle(0, 0, 3000, 2000), mapping)
    assert (round(100 * own.kept, 1), round(100 * own.empty, 1)) == (97.9, 2.1)
    width, height = np.ptp(mapping.outline(), axis=0)
    assert (int(width), int(height)) == (3077, 2118)
    everything = cost(Rectangle.about(middle(mapping), width, height), mapping)
    assert (everything.kept, round(100 * everything.empty, 1)) == (pytest.approx(1), 8.0)


@pytest.mark.parametrize(("degrees", "kept"), [(1, 95), (2, 90), (5, 79)])
def test_rule_of_thumb(degrees: float, kept: int) -> None:
    """Common practice, no source: a 3:2 picture turned by 1, 2 and 5 degrees keeps about 95, 90 and 79 %."""
    mapping = rolled(degrees)
    best = largest(mapping.outline(), 3, 2, middle(mapping))
    assert 100 * cost(best, mapping).kept == pytest.approx(kept, abs=1)


@given(st.floats(-45, 45), st.sampled_from([(3000, 2000), (2000, 3000), (1000, 1000), (8000, 1000)]))
def test_same_ratio_closed_form(degrees: float, size: tuple[int, int]) -> None:
    """A rectangle of the same ratio in one turned by a: scale 1 / (cos a + max(w/h, h/w) sin a), worked out from the
    support of the turned rectangle along its shorter side."""
    width, height = size
    mapping = rolled(degrees, width, height)
    best = largest(mapping.outline(), width, height, middle(mapping))
    a = np.deg2rad(abs(degrees))
    expected = 1 / (np.cos(a) + max(width / height, height / width) * np.sin(a))
    assert best.width / width == pytest.approx(expected, rel=1e-9)
    assert np.allclose(best.centre, middle(mapping), atol=1e-5)


@given(st.floats(-20, 20), st.floats(-18, 18), st.floats(-18, 18), st.floats(0.4, 2.5))
def test_against_scipys_linear_programme(roll: float, pitch: float, yaw: float, ratio: float) -> None:
    """scipy.optimize.linprog (HiGHS) on the same constraints, any convex outline and ratio."""
    camera = intrinsics(3000, 2000, photo_focal_px=2600)
    outline = Mapping.compile(camera, Attitude(roll, pitch, yaw), Attitude()).outline()
    best = largest(outline, ratio, 1.0, np.array([1500.0, 1000.0]))
    planes = HalfPlanes.of(outline)
    rows = np.column_stack([planes.normals, np.abs(planes.normals) @ [ratio / 2, 0.5]])
    answer = linprog(
        [0, 0, -1], A_ub=rows, b_ub=planes.offsets, bounds=[(None, None), (None, None), (0, None)]
    )
    assert best.height == pytest.approx(answer.x[2], rel=1e-7)
    assert planes.hold(best, 1e-4)


def test_of_equally_large_ones_the_nearest_to_the_middle() -> None:
    outline = np.array([[0.0, 0], [1000, 0], [1000, 100], [0, 100]])
    assert largest(outline, 1, 1, np.array([300.0, 0.0])).centre == pytest.approx([300, 50])
    assert largest(outline, 1, 1, np.array([-900.0, 0.0])).centre == pytest.approx([50, 50])


def test_outline_without_inside() -> None:
    flat = np.array([[0.0, 0], [10, 0], [20, 0], [5, 0]])
    with pytest.raises(ValueError, match="no inside"):
        largest(flat, 1, 1, np.array([0.0, 0.0]))


def test_cost_against_counting_pixels() -> None:
    """A frame half outside, against counting a fine grid of points."""
    mapping = rolled(7)
    frame = Rectangle(-400, 300, 1600, 1200)
    x, y = np.meshgrid(np.linspace(-400, 1200, 801), np.linspace(300, 1500, 601))
    photo = mapping.to_photo(np.column_stack([x.ravel(), y.ravel()]))
    inside = np.all((photo >= 0) & (photo <= [3000, 2000]), axis=1)
    exact = cost(frame, mapping)
    assert exact.empty == pytest.approx(1 - inside.mean(), abs=3e-3)
    assert exact.kept == pytest.approx(inside.mean() * 1600 * 1200 / 6e6, abs=3e-3)
    assert cost(Rectangle(9000, 9000, 10, 10), mapping).kept == 0


def test_a_hand_made_frame_keeps_its_point_of_the_photo() -> None:
    before, after = rolled(0), rolled(4)
    frame = Rectangle(200, 300, 1200, 800)
    moved = carry(frame, before, after)
    assert (moved.width, moved.height) == (1200, 800)
    assert np.allclose(after.to_photo(moved.centre[None])[0], frame.centre, atol=1e-6)


def test_and_shrinks_only_as_far_as_it_must() -> None:
    before, after = rolled(0), rolled(10)
    moved = carry(Rectangle(0, 0, 3000, 2000), before, after)
    best = largest(after.outline(), 3000, 2000, middle(after)).inwards()
    assert (moved.width, moved.height) == (best.width, best.height)
    outside = shrink_into(after.outline(), Rectangle(5000, 900, 300, 200))
    assert HalfPlanes.of(after.outline()).hold(outside, 1e-3)
    assert outside.width / outside.height == pytest.approx(1.5)
