"""The frame against closed forms, a linear programme, and the worked figures of the model."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from maps import any_map, middle, rolled
from scipy.optimize import linprog
from shapely import Polygon, box, prepare

from sequor.core.camera import Attitude, intrinsics
from sequor.core.distortion.models import Lens, half_diagonal
from sequor.core.frame.cost import CutOff, carry, cost, cut_off
from sequor.core.frame.largest import HalfPlanes, holds, largest, shrink_into
from sequor.core.frame.ratio import GOLDEN, agrees_with_ratio
from sequor.core.raster.resample import resample
from sequor.core.rectangle import Rectangle
from sequor.core.warp.homography import warp_of


def test_worked_figures() -> None:
    """docs/geometry.md, the frame: roll 2.30 degrees of 3000 x 2000. Largest frame 2831 x 1887 keeps 89.1 %; a frame of
    the photo's own size keeps 97.9 % with 2.1 % empty; keeping everything takes 3077 x 2118 with 8.0 % empty."""
    warp = rolled(2.3)
    best = largest(warp.outline(), 3000, 2000, middle(warp))
    assert (best.inwards().width, best.inwards().height) == (2831, 1887)
    assert round(100 * cost(best, warp).kept, 1) == 89.1
    own = cost(Rectangle(0, 0, 3000, 2000), warp)
    assert (round(100 * own.kept, 1), round(100 * own.empty, 1)) == (97.9, 2.1)
    width, height = np.ptp(warp.outline(), axis=0)
    assert (int(width), int(height)) == (3077, 2118)
    everything = cost(Rectangle.about(middle(warp), width, height), warp)
    assert (everything.kept, round(100 * everything.empty, 1)) == (pytest.approx(1), 8.0)


@pytest.mark.parametrize(("degrees", "kept"), [(1, 95), (2, 90), (5, 79)])
def test_rule_of_thumb(degrees: float, kept: int) -> None:
    """Common practice, no source: a 3:2 picture turned by 1, 2 and 5 degrees keeps about 95, 90 and 79 %."""
    warp = rolled(degrees)
    best = largest(warp.outline(), 3, 2, middle(warp))
    assert 100 * cost(best, warp).kept == pytest.approx(kept, abs=1)


@given(st.floats(-45, 45), st.sampled_from([(3000, 2000), (2000, 3000), (1000, 1000), (8000, 1000)]))
def test_same_ratio_closed_form(degrees: float, size: tuple[int, int]) -> None:
    """A rectangle of the same ratio in one turned by a: scale 1 / (cos a + max(w/h, h/w) sin a), worked out from the
    support of the turned rectangle along its shorter side."""
    width, height = size
    warp = rolled(degrees, width, height)
    best = largest(warp.outline(), width, height, middle(warp))
    a = np.deg2rad(abs(degrees))
    expected = 1 / (np.cos(a) + max(width / height, height / width) * np.sin(a))
    assert best.width / width == pytest.approx(expected, rel=1e-8)
    assert np.allclose(best.centre, middle(warp), atol=1e-5)


@given(st.floats(-20, 20), st.floats(-18, 18), st.floats(-18, 18), st.floats(0.4, 2.5))
def test_against_scipys_linear_programme(roll: float, pitch: float, yaw: float, ratio: float) -> None:
    """scipy.optimize.linprog (HiGHS) on the same constraints, any convex outline and ratio."""
    camera = intrinsics(3000, 2000, photo_focal_px=2600)
    outline = warp_of(camera, Attitude(roll, pitch, yaw), Attitude()).outline()
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
    warp = rolled(7)
    frame = Rectangle(-400, 300, 1600, 1200)
    x, y = np.meshgrid(np.linspace(-400, 1200, 801), np.linspace(300, 1500, 601))
    photo = warp.to_photo(np.column_stack([x.ravel(), y.ravel()]))
    inside = np.all((photo >= 0) & (photo <= [3000, 2000]), axis=1)
    exact = cost(frame, warp)
    assert exact.empty == pytest.approx(1 - inside.mean(), abs=3e-3)
    assert exact.kept == pytest.approx(inside.mean() * 1600 * 1200 / 6e6, abs=3e-3)
    assert cost(Rectangle(9000, 9000, 10, 10), warp).kept == 0


def test_a_hand_made_frame_keeps_its_point_of_the_photo() -> None:
    before, after = rolled(0), rolled(4)
    frame = Rectangle(200, 300, 1200, 800)
    moved = carry(frame, before, after, (3, 2))
    assert (moved.width, moved.height) == (1200, 800)
    assert np.allclose(after.to_photo(moved.centre[None])[0], frame.centre, atol=1e-6)


def test_and_shrinks_only_as_far_as_it_must() -> None:
    before, after = rolled(0), rolled(10)
    moved = carry(Rectangle(0, 0, 3000, 2000), before, after, (3, 2))
    best = largest(after.outline(), 3000, 2000, middle(after)).inwards()
    assert (moved.width, moved.height) == (best.width, best.height)
    outside = shrink_into(after.outline(), Rectangle(5000, 900, 300, 200))
    assert HalfPlanes.of(after.outline()).hold(outside, 1e-3)
    assert outside.width / outside.height == pytest.approx(1.5)


@pytest.mark.parametrize("first", range(0, 500, 100))
def test_no_empty_pixel_with_any_lens(first: int) -> None:
    """500 random lenses, attitudes, sizes and ratios: a white photo through the map, cut to the largest frame, has no
    pixel of the background, its ratio is exact to a pixel, and the frame can hardly grow."""
    for case in range(first, first + 100):
        rng = np.random.default_rng(case)
        width, height = [(300, 200), (200, 300), (240, 240), (420, 100)][case % 4]
        warp = any_map(rng, width, height)
        ratio = [(width, height), (1.0, 1.0), (16.0, 9.0), (1.0, GOLDEN), (13.6, 9.9)][case % 5]
        best = largest(warp.outline(), *ratio, middle(warp))
        frame = best.inwards()
        white = np.full((height, width, 3), 255, np.uint8)
        size = (round(frame.width), round(frame.height))
        out = resample(white, warp, frame.x, frame.y, *size, background=(0, 0, 0))
        assert out.min() == 255, case
        assert agrees_with_ratio(*size, ratio)
        assert holds(warp.outline(), frame)
        assert not holds(
            warp.outline(),
            Rectangle.about(best.centre, best.width + 1, best.height * (1 + 1 / best.width)),
        )


@pytest.mark.parametrize("case", range(12))
def test_against_brute_force_on_small_ones(case: int) -> None:
    """Every centre on a fine grid, its largest rectangle found by halving with shapely: none is larger by half a pixel."""
    rng = np.random.default_rng(1000 + case)
    warp = any_map(rng, 60, 40)
    outline = warp.outline()
    best = largest(outline, 60, 40, middle(warp))
    region = Polygon(outline)
    prepare(region)
    brute = 0.0
    left, top, right, bottom = region.bounds
    for cx in np.arange(left + 5, right - 5, 0.75):
        for cy in np.arange(top + 4, bottom - 4, 0.75):
            low, high = brute, 90.0
            if not region.contains(box(cx - low / 2, cy - low / 3, cx + low / 2, cy + low / 3)):
                continue
            while high - low > 0.02:
                wide = (low + high) / 2
                inside = region.contains(box(cx - wide / 2, cy - wide / 3, cx + wide / 2, cy + wide / 3))
                low, high = (wide, high) if inside else (low, wide)
            brute = max(brute, low)
    # Between two grid points a centre may be better by the grid's step; never worse than any of them.
    assert best.width >= brute - 0.17
    assert best.width <= brute + 1.2


def test_bent_outline_of_a_plain_photo_is_the_plain_frame() -> None:
    """The search and the linear programme agree where both can answer: a lens that bends by nothing to speak of."""
    attitude = Attitude(roll=3, pitch=6, yaw=-4)
    camera = intrinsics(3000, 2000, photo_focal_px=2600)
    plain = warp_of(camera, attitude, Attitude())
    barely = warp_of(camera, attitude, Attitude(), lens=Lens((1500, 1000), 1800.0, k1=1e-9))
    exact = largest(plain.outline(), 3000, 2000, middle(plain))
    searched = largest(barely.outline(), 3000, 2000, middle(plain))
    assert searched.width == pytest.approx(exact.width, abs=0.2)
    # So near the best, the size hardly changes with the place.
    assert searched.centre == pytest.approx(exact.centre, abs=4)


def test_of_equally_large_ones_in_a_bent_outline_the_nearest() -> None:
    x = np.linspace(0, 1000, 60)
    flat = np.concatenate([np.column_stack([x, 0 * x]), np.column_stack([1000 - x, 0 * x + 100])])
    assert largest(flat, 1, 1, np.array([300.0, 0.0])).centre == pytest.approx([300, 50], abs=0.2)
    assert largest(flat, 1, 1, np.array([-900.0, 0.0])).centre == pytest.approx([50, 50], abs=0.2)


def test_cost_of_a_bent_frame_against_counting() -> None:
    lens = Lens((1500, 1000), half_diagonal(3000, 2000), k1=-0.1)
    warp = warp_of(intrinsics(3000, 2000), Attitude(roll=4), Attitude(), lens=lens)
    frame = Rectangle(-200, 100, 2600, 1500)
    x, y = np.meshgrid(np.linspace(-198.7, 2398.7, 1300), np.linspace(101, 1599, 750))
    photo = warp.to_photo(np.column_stack([x.ravel(), y.ravel()]))
    inside = np.all((photo >= 0) & (photo <= [3000, 2000]), axis=1)
    assert cost(frame, warp).empty == pytest.approx(1 - inside.mean(), abs=1e-3)
    u, v = np.meshgrid(np.linspace(1, 2999, 1500), np.linspace(1, 1999, 1000))
    there = warp.to_corrected(np.column_stack([u.ravel(), v.ravel()]))
    seen = np.all((there >= [-200, 100]) & (there <= [2400, 1600]), axis=1)
    assert cost(frame, warp).kept == pytest.approx(seen.mean(), abs=1e-3)


def test_a_frame_does_not_drift_under_many_small_turns() -> None:
    """A hundred turns there and back, each shrinking as it must: the ratio is exact to a pixel after every one."""
    rng = np.random.default_rng(1)
    frame, before = Rectangle(20, 20, 1360, 990), rolled(0, 1400, 1050)
    for _ in range(100):
        after = rolled(float(rng.uniform(-6, 6)), 1400, 1050)
        frame = carry(frame, before, after, (13.6, 9.9))
        assert holds(after.outline(), frame)
        assert agrees_with_ratio(round(frame.width), round(frame.height), (13.6, 9.9))
        before = after
    assert frame.width > 1000


def test_a_frame_with_empty_corners_keeps_its_size() -> None:
    before, after = rolled(0), rolled(10)
    moved = carry(Rectangle(0, 0, 3000, 2000), before, after, (3, 2), allow_empty=True)
    assert (moved.width, moved.height) == (3000, 2000)


def test_a_hand_made_frame_under_a_lens_that_is_taken_in() -> None:
    before = rolled(0)
    lens = Lens((1500, 1000), half_diagonal(3000, 2000), k1=0.06)
    after = warp_of(intrinsics(3000, 2000), Attitude(), Attitude(), lens=lens)
    frame = Rectangle(40, 40, 2910, 1940)
    moved = carry(frame, before, after, (3, 2))
    assert holds(after.outline(), moved) and moved.width < 2910
    assert np.allclose(after.to_photo(moved.centre[None])[0], frame.centre, atol=0.8)
    outside = shrink_into(after.outline(), Rectangle(5000, 900, 300, 200))
    assert holds(after.outline(), outside)


def test_what_is_cut_off_on_each_side_against_counting_points() -> None:
    """Of a turned picture: counted on a fine grid of the photo; nothing where the frame reaches beyond it."""
    warp = rolled(7)
    frame = Rectangle(500, 300, 1600, 1200)
    x, y = np.meshgrid(np.arange(5, 3000, 10.0), np.arange(5, 2000, 10.0))
    turned = warp.to_corrected(np.column_stack([x.ravel(), y.ravel()]))
    cut = cut_off(frame, warp)
    assert cut.left == pytest.approx((turned[:, 0] < 500).mean(), abs=3e-3)
    assert cut.right == pytest.approx((turned[:, 0] > 2100).mean(), abs=3e-3)
    assert cut.top == pytest.approx((turned[:, 1] < 300).mean(), abs=3e-3)
    assert cut.bottom == pytest.approx((turned[:, 1] > 1500).mean(), abs=3e-3)
    around = cut_off(Rectangle(-900, -900, 5000, 5000), warp)
    assert around == CutOff(0, 0, 0, 0)
