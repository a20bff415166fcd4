"""Frame: largest that fits that also holds a subject or meets a line, and the largest of any ratio."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from maps import any_map, middle, rolled
from scipy.optimize import linprog
from shapely import Polygon, box

from sequor.core.camera import Array
from sequor.core.frame.constraints import FrameConstraints, NoFrameError
from sequor.core.frame.convex import HalfPlanes
from sequor.core.frame.largest import holds, largest, largest_of_any_ratio
from sequor.core.rectangle import Rectangle


def by_linprog(outline: Array, ratio: float, constraints: FrameConstraints) -> float | None:
    """The height of the largest frame by scipy.optimize.linprog (HiGHS) in (cx, cy, height); None: there is none."""
    planes = HalfPlanes.of(outline)
    rows = [[*normal, abs(normal[0]) * ratio / 2 + abs(normal[1]) / 2] for normal in planes.normals]
    limits = list(planes.offsets)
    if constraints.around is not None:
        one = constraints.around
        rows += [[1, 0, -ratio / 2], [-1, 0, -ratio / 2], [0, 1, -0.5], [0, -1, -0.5]]
        limits += [one.x, -one.right, one.y, -one.bottom]
    equal, values = [], []
    if constraints.across is not None:
        equal.append([1, 0, (constraints.across[1] - 0.5) * ratio])
        values.append(constraints.across[0])
    if constraints.down is not None:
        equal.append([0, 1, constraints.down[1] - 0.5])
        values.append(constraints.down[0])
    answer = linprog(
        [0, 0, -1], A_ub=rows, b_ub=limits, A_eq=equal or None, b_eq=values or None,
        bounds=[(None, None), (None, None), (0, constraints.at_most)],
    )  # fmt: skip
    return float(answer.x[2]) if answer.success else None


@pytest.mark.parametrize("case", range(60))
def test_constraintses_against_scipys_linear_programme(case: int) -> None:
    """A box to hold, an x and a y at shares of the frame, a largest size: in any mixture."""
    rng = np.random.default_rng(case)
    warp = any_map(rng, 3000, 2000, straight=True)
    outline = warp.outline()
    ratio = float(rng.uniform(0.4, 2.5))
    x, y = rng.uniform([600, 500], [2400, 1500])
    constraints = FrameConstraints(
        Rectangle(float(x), float(y), *map(float, rng.uniform(0, 300, 2))) if case % 2 else None,
        (float(x), float(rng.choice([1 / 3, 0.5, 0.8]))) if case % 3 else None,
        (float(y), float(rng.choice([0.2, 0.5, 2 / 3]))) if case % 5 > 1 else None,
        float(rng.uniform(100, 3000)) if case % 7 > 3 else np.inf,
    )
    expected = by_linprog(outline, ratio, constraints)
    if expected is None or expected < 1e-6:
        with pytest.raises(NoFrameError):
            largest(outline, ratio, 1.0, middle(warp), constraints)
        return
    best = largest(outline, ratio, 1.0, middle(warp), constraints)
    assert best.height == pytest.approx(expected, rel=1e-6)
    assert Polygon(outline).buffer(1e-3).contains(box(best.x, best.y, best.right, best.bottom))
    if constraints.around is not None:
        assert best.contains(constraints.around, 1e-3)
    if constraints.across is not None:
        assert best.at(constraints.across[1], 0)[0] == pytest.approx(constraints.across[0], abs=1e-3)
    if constraints.down is not None:
        assert best.at(0, constraints.down[1])[1] == pytest.approx(constraints.down[0], abs=1e-3)


@pytest.mark.parametrize("case", range(12))
def test_constraintses_in_a_bent_outline_against_brute_force(case: int) -> None:
    """Every frame whose line meets the thing, on a fine grid with shapely: none is larger by half a pixel."""
    rng = np.random.default_rng(500 + case)
    warp = any_map(rng, 60, 40)
    outline = warp.outline()
    region = Polygon(outline)
    x, share = float(rng.uniform(22, 38)), float(rng.choice([1 / 3, 0.5, 2 / 3]))
    best = largest(outline, 60, 40, middle(warp), FrameConstraints(across=(x, share)))
    assert best.at(share, 0)[0] == pytest.approx(x, abs=1e-6)
    brute = 0.0
    for width in np.arange(2, 90, 0.5):
        height, left = width * 2 / 3, x - share * width
        tops = np.arange(region.bounds[1], region.bounds[3] - height, 0.5)
        if any(region.contains(box(left, top, left + width, top + height)) for top in tops):
            brute = float(width)
    assert best.width >= brute - 0.17
    assert best.width <= brute + 1.2


def test_around_a_box_in_a_bent_outline() -> None:
    for case in range(12):
        warp = any_map(np.random.default_rng(case), 3000, 2000)
        outline = warp.outline()
        plain = largest(outline, 3, 2, middle(warp))
        corner = Rectangle.about(plain.at(0.2, 0.8), 200.0, 150.0)
        best = largest(outline, 3, 2, middle(warp), FrameConstraints(corner))
        assert best.contains(corner, 0.5) and holds(outline, best)
        assert best.width <= plain.width + 0.2


def free_closed_form(width: float, height: float, degrees: float) -> tuple[float, float]:
    """The upright rectangle of the largest area in one turned by an angle, of any ratio.

    Worked out from the two cases: it meets two opposite sides in their middles (when the lesser side is at most
    sin 2a times the greater), or all four sides.
    """
    a = np.deg2rad(abs(degrees))
    long, short = max(width, height), min(width, height)
    if short <= 2 * np.sin(a) * np.cos(a) * long + 1e-12:
        x = short / 2
        wide, high = (x / np.sin(a), x / np.cos(a)) if width >= height else (x / np.cos(a), x / np.sin(a))
        return wide, high
    cos2 = np.cos(a) ** 2 - np.sin(a) ** 2
    return (
        (width * np.cos(a) - height * np.sin(a)) / cos2,
        (height * np.cos(a) - width * np.sin(a)) / cos2,
    )


@given(st.floats(0.05, 44), st.sampled_from([(3000, 2000), (2000, 3000), (1000, 1000), (4000, 1500)]))
def test_free_shape_closed_form(degrees: float, size: tuple[int, int]) -> None:
    warp = rolled(degrees, *size)
    best = largest_of_any_ratio(warp.outline(), middle(warp))
    wide, high = free_closed_form(*size, degrees)
    assert best.width * best.height == pytest.approx(wide * high, rel=1e-5)
    assert HalfPlanes.of(warp.outline()).hold(best, 1e-3)


def test_free_shape_at_the_worked_angle() -> None:
    """2.30 degrees of 3000 x 2000: 2926.75 x 1884.06 by the closed form."""
    best = largest_of_any_ratio(rolled(2.3).outline(), np.array([1500.0, 1000.0]))
    assert (best.width, best.height) == (pytest.approx(2926.75, abs=0.05), pytest.approx(1884.06, abs=0.05))


@pytest.mark.parametrize("straight", [True, False])
def test_free_shape_against_all_ratios(straight: bool) -> None:
    """No ratio on a fine grid gives a larger area, with a subject to hold or without."""
    for case in range(6):
        warp = any_map(np.random.default_rng(case), 3000, 2000, straight)
        outline = warp.outline()
        whole = largest(outline, 3, 2, middle(warp))
        for around in (None, Rectangle.about(whole.at(0.3, 0.4), 400.0, 60.0)):
            best = largest_of_any_ratio(outline, middle(warp), around)
            assert holds(outline, best) and (around is None or best.contains(around, 0.5))
            areas = []
            for log_ratio in np.linspace(-1.5, 1.5, 61):
                try:
                    one = largest(
                        outline, float(np.exp(log_ratio)), 1.0, middle(warp), FrameConstraints(around)
                    )
                except NoFrameError:
                    continue
                areas.append(one.width * one.height)
            assert best.width * best.height >= max(areas) * (0.9999 if straight else 0.997)
