"""The solve: pure rotations, statistics, and lines that disagree."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import least_squares
from scipy.spatial.transform import Rotation

from sequor.core.camera import Array, intrinsics
from sequor.core.estimation.consistency import DISAGREE_SIGMAS
from sequor.core.estimation.least_squares import HUBER_SIGMAS
from sequor.core.estimation.solve import Solution
from sequor.core.estimation.solve import solve as solve_with
from sequor.core.estimation.unknowns import Unknown
from sequor.core.references.line import read
from sequor.core.references.reference import Reference

CAMERA = intrinsics(3000, 2000)


def solve(references: list[Reference], free: list[Unknown]) -> Solution:
    return solve_with(references, free, CAMERA)


def sloping(
    name: str, slope: float, sigma: float = 1.0, at: tuple[float, float] = (500, 500), **more: float
) -> Reference:
    """A level line of 1000 px with a slope in degrees."""
    half = 500 * np.array([np.cos(np.deg2rad(slope)), np.sin(np.deg2rad(slope))])
    return Reference(name, "level", np.array([at - half, at + half]), sigma, more.get("weight", 1.0))


@given(
    st.floats(0, 6000),
    st.floats(0, 4000),
    st.floats(50, 3000),
    st.floats(-44.9, 44.9),
    st.sampled_from(["level", "plumb"]),
)
def test_one_line_anywhere_is_met_by_a_pure_rotation(
    x: float, y: float, length: float, tilt: float, kind: str
) -> None:
    """The property that docs/geometry.md asks for, to 1e-9 degrees, wherever the line lies."""
    direction = np.deg2rad(tilt if kind == "level" else tilt + 90)
    ends = np.array([[x, y], [x + length * np.cos(direction), y + length * np.sin(direction)]])
    solution = solve([Reference("r1", kind, ends)], ["roll"])  # type: ignore[arg-type]
    assert (solution.attitude.pitch, solution.attitude.yaw) == (0, 0)
    turned = ends @ Rotation.from_euler("z", solution.attitude.roll, degrees=True).as_matrix()[:2, :2].T
    reading = read(turned)
    assert (reading.slope_deg if kind == "level" else reading.lean_deg) == pytest.approx(0, abs=1e-9)


def test_signs() -> None:
    """A camera turned clockwise makes level things rise to the right and upright things lean left."""
    rising = Reference("a", "level", np.array([[0.0, 100.0], [1000.0, 60.0]]))
    leaning_left = Reference("b", "plumb", np.array([[500.0, 1000.0], [460.0, 0.0]]))
    for line in (rising, leaning_left):
        assert solve([line], ["roll"]).attitude.roll == pytest.approx(np.rad2deg(np.arctan(0.04)))


def test_without_lines_or_freedom_nothing_is_solved() -> None:
    assert solve([], ["roll"]).undetermined == ("roll",)
    assert solve([sloping("a", 2)], []).sd["roll"] is None
    off = Reference("a", "level", np.array([[0.0, 0.0], [9.0, 1.0]]), active=False)
    witness = Reference("b", "witness", np.array([[0.0, 0.0], [9.0, 1.0]]))
    assert solve([off, witness], ["roll"]).sd["roll"] is None


def test_two_lines_are_weighed_by_their_information() -> None:
    """Hand-worked: sigmas 1 and 2 weigh 4 : 1, so slopes 1.0 and 1.1 give -(4 * 1.0 + 1.1) / 5 = -1.02."""
    solution = solve([sloping("a", 1.0, 1), sloping("b", 1.1, 2)], ["roll"])
    assert solution.attitude.roll == pytest.approx(-1.02, abs=1e-9)
    assert solution.sd["roll"] == pytest.approx(read(sloping("a", 1.0, 1).points, 1).sd_deg * np.sqrt(4 / 5))


def test_weight_two_is_as_if_laid_twice() -> None:
    twice = solve([sloping("a", 1.0), sloping("b", 1.0), sloping("c", 1.05)], ["roll"])
    weighed = solve([sloping("a", 1.0, weight=2.0), sloping("c", 1.05)], ["roll"])
    assert weighed.attitude.roll == pytest.approx(twice.attitude.roll, abs=1e-6)
    assert weighed.sd["roll"] == pytest.approx(twice.sd["roll"])


def test_the_robust_estimate_is_scipys() -> None:
    """scipy.optimize.least_squares with loss='huber' minimises the same function. The lines are so many that two that
    stand off a little are no disagreement yet."""
    slopes = np.array([1.0, 1.02, 0.98, 1.01, 0.99, 1.0, 1.23, 1.28])
    lines = [sloping(str(index), slope, 1.0) for index, slope in enumerate(slopes)]
    sd = read(lines[0].points, 1.0).sd_deg

    def residuals(x: Array) -> Array:
        return (slopes + x[0]) / sd

    expected = least_squares(
        residuals, [-1.0], loss="huber", f_scale=HUBER_SIGMAS, xtol=1e-14, ftol=1e-14, gtol=1e-14
    )
    solution = solve(lines, ["roll"])
    assert solution.conflicts == ()
    assert np.abs(residuals(expected.x)).max() > HUBER_SIGMAS
    assert np.abs(residuals(expected.x)).max() < DISAGREE_SIGMAS
    assert solution.attitude.roll == pytest.approx(expected.x[0], abs=1e-6)


def test_intervals_cover_what_they_say() -> None:
    """500 photos with a true roll of 2.3 and three lines of different precision: the scatter of the estimate is
    the Cramér-Rao bound 1 / sqrt(sum of information), and 95 % intervals cover 95 % (within 3 binomial sd)."""
    rng = np.random.default_rng(11)
    sigmas, hits, estimates = (1.0, 2.0, 4.0), 0, []
    for _ in range(500):
        lines = []
        for index, sigma in enumerate(sigmas):
            line = sloping(str(index), -2.3, sigma)
            lines.append(
                Reference(line.id, "level", line.points + [[0, e] for e in rng.normal(0, sigma, 2)], sigma)
            )
        solution = solve(lines, ["roll"])
        assert solution.sd["roll"] is not None
        estimates.append(solution.attitude.roll)
        hits += abs(solution.attitude.roll - 2.3) <= 1.959964 * solution.sd["roll"]
    bound = 1 / np.sqrt(sum(1 / read(sloping("x", -2.3, s).points, s).sd_deg ** 2 for s in sigmas))
    assert np.std(estimates) == pytest.approx(bound, rel=0.1)
    assert abs(hits / 500 - 0.95) < 3 * np.sqrt(0.95 * 0.05 / 500)


def test_two_that_disagree_are_split_and_reported() -> None:
    solution = solve([sloping("horizon", -2.3), sloping("rail", 4.0)], ["roll"])
    assert solution.attitude.roll == pytest.approx(-0.85, abs=1e-9)
    (conflict,) = solution.conflicts
    assert (conflict.ids, conflict.reason) == (("horizon", "rail"), "two-disagree")
    assert conflict.deg == pytest.approx(6.3)
    assert conflict.sigmas == pytest.approx(6.3 / (read(sloping("x", 0).points).sd_deg * np.sqrt(2)))


def test_of_three_the_one_that_fights_is_named_and_not_followed() -> None:
    """Level lines that slope against the others may run away from the camera: that is said with the name."""
    lines = [sloping("a", -2.3), sloping("b", -2.35), sloping("rail", 4.0), sloping("c", -2.28)]
    solution = solve(lines, ["roll"])
    assert [(conflict.ids, conflict.reason) for conflict in solution.conflicts] == [
        (("rail",), "receding-as-level")
    ]
    assert solution.attitude.roll == pytest.approx(2.31, abs=0.005)


def test_when_no_single_line_explains_it_the_pairs_are_reported() -> None:
    lines = [sloping("a", -2), sloping("b", -2.01), sloping("c", 3), sloping("d", 3.01)]
    assert {conflict.reason for conflict in solve(lines, ["roll"]).conflicts} == {"two-disagree"}


def test_lines_near_upright_and_near_level_agree_across_the_fold() -> None:
    """A plumb line leaning 89 degrees either way is nearly the same measurement."""
    a = Reference("a", "plumb", np.array([[0.0, 0.0], [1000.0, 10.0]]), 30)
    b = Reference("b", "plumb", np.array([[0.0, 10.0], [1000.0, 0.0]]), 30)
    assert abs(solve([a, b], ["roll"]).attitude.roll) == pytest.approx(90, abs=1e-6)
