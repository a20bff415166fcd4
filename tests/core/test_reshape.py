"""Reshape: straight lines follow, the border stays, nothing folds; energies against a dense direct solve."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from sequor.core.camera import Attitude, intrinsics
from sequor.core.distortion.models import Lens, half_diagonal
from sequor.core.look.segments import find_segments
from sequor.core.raster.resample import resample, shown
from sequor.core.rectangle import Rectangle
from sequor.core.warp.base import Warp
from sequor.core.warp.homography import warp_of
from sequor.core.warp.lattice import Lattice
from sequor.core.warp.reshape import CannotReshapeError, Marked, Mesh, Problem, reshape

Array = NDArray[np.float64]
WIDE, HIGH = 900, 600
HORIZON = np.array([[40.0, 330.0], [860.0, 287.0]])
MAST = np.array([[610.0, 80.0], [623.0, 330.0]])
MARKED = [Marked(HORIZON, 2.0), Marked(MAST)]
NONE = np.zeros((0, 2, 2))
BARREL = Lens((WIDE / 2, HIGH / 2), half_diagonal(WIDE, HIGH), k1=-0.06, k2=0.01)


def turned(degrees: float, pitch: float = 0.0, lens: Lens | None = None) -> Warp:
    return warp_of(
        intrinsics(WIDE, HIGH, focal_35mm=28), Attitude(roll=degrees, pitch=pitch), Attitude(), lens=lens
    )


def angle(points: Array) -> float:
    x, y = points[-1] - points[0]
    return float(np.rad2deg(np.arctan2(y, x)))


def along(ends: Array, lens: Lens | None = None) -> Array:
    """Points of a thing that is straight in the world, in photo pixels."""
    if lens is None:
        return ends[0] + np.linspace(0, 1, 60)[:, None] * (ends[1] - ends[0])
    return lens.distorted(along(lens.undistorted(ends)))


def bend(points: Array) -> float:
    x, y = (points[-1] - points[0]) / np.linalg.norm(points[-1] - points[0])
    return float(np.abs((points - points[0]) @ [-y, x]).max())


def test_no_angle_is_the_identity() -> None:
    points = np.random.default_rng(1).uniform([0, 0], [WIDE, HIGH], (40, 2))
    made = reshape(turned(0.0), MARKED, NONE)
    assert np.allclose(made.warp.to_corrected(points), points, atol=1e-6)
    assert made.greatest == pytest.approx(1.0, abs=1e-6)
    picture = np.random.default_rng(2).integers(0, 256, (HIGH, WIDE, 3), np.uint8)
    assert np.array_equal(resample(picture, made.warp, 0, 0, WIDE, HIGH), picture)


@pytest.mark.parametrize("lens", [None, BARREL])
@pytest.mark.parametrize(("degrees", "pitch"), [(3.0, 0.0), (-3.0, 0.0), (2.0, 4.0)])
def test_marked_lines_follow_and_stay_straight(degrees: float, pitch: float, lens: Lens | None) -> None:
    plain = turned(degrees, pitch, lens)
    made = reshape(plain, MARKED, NONE)
    for line, most in ((HORIZON, 0.05), (MAST, 0.2)):
        points = along(line, lens)
        after = made.warp.to_corrected(points)
        assert abs(angle(after) - angle(plain.to_corrected(points))) < most
        assert bend(after) < 0.5


def test_the_middle_turns_the_border_stays_and_little_is_stretched() -> None:
    made = reshape(turned(3.0), MARKED, NONE)
    middle = np.array([[WIDE / 2, HIGH / 2]]) + [[0, 0], [10, 0]]
    assert abs(angle(made.warp.to_corrected(middle))) > 2.0
    assert 1.02 < made.greatest < 1.3
    edge = np.linspace(0, WIDE, 200)
    for height in (0.0, float(HIGH)):
        on_border = made.warp.to_corrected(np.column_stack([edge, np.full(200, height)]))
        assert np.allclose(on_border[:, 1], height, atol=1e-6)
    assert made.warp.lattice is not None
    assert not made.warp.lattice.folds


@pytest.mark.parametrize("lens", [None, BARREL])
def test_all_of_the_photo_fills_all_of_the_rectangle(lens: Lens | None) -> None:
    made = reshape(turned(4.0, lens=lens), MARKED, NONE).warp
    assert shown(made, 0, 0, WIDE, HIGH).all()
    assert not shown(made, -1, 0, 1, HIGH).any()
    corners = np.array([[0, 0], [WIDE, 0], [WIDE, HIGH], [0, HIGH]], float)
    assert np.allclose(made.to_corrected(corners), corners, atol=1e-6)


def test_forth_and_back_and_at_other_sizes() -> None:
    made = reshape(turned(3.0), MARKED, NONE).warp
    points = np.random.default_rng(1).uniform([0, 0], [WIDE, HIGH], (200, 2))
    assert np.allclose(made.to_photo(made.to_corrected(points)), points, atol=1e-7)
    half = made.at_scale(0.5)
    assert np.allclose(half.to_corrected(points / 2), made.to_corrected(points) / 2, atol=1e-7)
    wide = made.resized(2.0, 1.5)
    assert np.allclose(wide.to_corrected(points), made.to_corrected(points) * [2.0, 1.5], atol=1e-7)


def test_a_proportion_makes_the_rectangle_taller() -> None:
    made = reshape(warp_of(intrinsics(WIDE, HIGH), Attitude(), Attitude(), 1.21), MARKED, NONE, 1.21)
    (left, top), (right, bottom) = made.warp.outline()[[0, 2]]
    assert (right - left, bottom - top) == pytest.approx((WIDE / 1.1, HIGH * 1.1))
    assert made.greatest == pytest.approx(1.0, abs=1e-6)


def test_pixels_against_opencv() -> None:
    """cv2.remap with the same map; on a smooth picture any good kernel gives the same to a code or two."""
    y, x = np.mgrid[0:HIGH, 0:WIDE]
    picture = np.stack([127 + 90 * np.sin(x / 30 + k) * np.cos(y / 25) for k in range(3)], -1).astype(
        np.uint8
    )
    made = reshape(turned(3.0), MARKED, NONE).warp
    v, u = np.mgrid[0:HIGH, 0:WIDE] + 0.5
    source = made.to_photo(np.column_stack([u.ravel(), v.ravel()])).astype(np.float32) - 0.5
    across, down = (source[:, at].reshape(HIGH, WIDE) for at in (0, 1))
    theirs = cv2.remap(picture, across, down, cv2.INTER_CUBIC, None, cv2.BORDER_REPLICATE)
    difference = np.abs(resample(picture, made, 0, 0, WIDE, HIGH).astype(int) - theirs)
    assert difference.max() <= 2
    assert difference.mean() < 0.3


def test_a_line_by_an_independent_detector() -> None:
    """The edge of a drawn horizon, reshaped, measured by OpenCV's Hough transform (Duda and Hart 1972)."""
    picture = np.full((HIGH, WIDE, 3), 60, np.uint8)
    below = np.array([*HORIZON[:1] * [0, 1], [0, 332.1], [WIDE, 284.9], [WIDE, HIGH], [0, HIGH]])[1:]
    cv2.fillPoly(picture, [np.round(below * 256).astype(np.int32)], (190, 190, 190), cv2.LINE_AA, 8)
    tilt = angle(HORIZON)
    made = reshape(turned(-tilt), [Marked(HORIZON)], NONE).warp
    out = resample(picture, made, 0, 0, WIDE, HIGH)
    edges = cv2.Canny(out, 60, 120)[:, 60:-60]
    line = cv2.HoughLines(
        edges, 1, np.deg2rad(0.05), 300, min_theta=np.deg2rad(80), max_theta=np.deg2rad(100)
    )
    assert abs(np.rad2deg(line[0, 0, 1]) - 90) <= 0.15


def test_energies_against_a_dense_direct_solve() -> None:
    """The sparse solution with its border left out and the least of the same rows by LAPACK (numpy's lstsq)."""
    mesh = Mesh.over(turned(3.0))
    segments = np.array([[[200.0, 100.0], [500.0, 130.0]], [[300.0, 500.0], [310.0, 350.0]]])
    problem = Problem(mesh, MARKED, segments)
    shares = np.random.default_rng(3).uniform(0.2, 5.0, mesh.count)
    found = problem.solve(shares)
    rows = np.vstack(
        [problem.shapes.toarray() * np.repeat(np.sqrt(shares), 8)[:, None], problem.rest.toarray()]
    )
    columns, lines = mesh.photo.cells
    number = np.arange(len(found)).reshape(lines + 1, columns + 1)
    known: dict[int, float] = {}
    for nodes, axis, value in (
        (number[:, 0], 0, 0.0),
        (number[:, -1], 0, WIDE),
        (number[0], 1, 0.0),
        (number[-1], 1, HIGH),
    ):
        known.update({2 * int(node) + axis: float(value) for node in nodes})
    free = [at for at in range(rows.shape[1]) if at not in known]
    right = -rows[:, list(known)] @ np.array(list(known.values()))
    dense = np.linalg.lstsq(rows[:, free], right, rcond=None)[0]
    whole = np.zeros(rows.shape[1])
    whole[list(known)] = list(known.values())
    whole[free] = dense
    assert np.allclose(found.ravel(), whole[: 2 * len(found)], atol=1e-5)


def test_the_energy_of_shapes_is_none_for_a_similar_copy() -> None:
    mesh = Mesh.over(turned(3.0))
    problem = Problem(mesh, [], NONE)
    a = np.deg2rad(20.0)
    similar = mesh.corrected @ (1.3 * np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]])) + [
        5.0,
        -7.0,
    ]
    assert np.abs(problem.shapes @ similar.ravel()).max() < 1e-9
    stretched = mesh.corrected * [1.2, 1.0]
    assert np.abs(problem.shapes @ stretched.ravel()).max() > 0.01


def test_stretch_of_a_known_stretching() -> None:
    mesh = Mesh.over(turned(0.0))
    assert mesh.stretch(mesh.corrected * [1.25, 1.0]) == pytest.approx(1.25)
    sheared = mesh.corrected @ np.array([[1.0, 0.0], [0.3, 1.0]])
    by = np.linalg.svd(np.array([[1.0, 0.3], [0.0, 1.0]]), compute_uv=False)
    assert mesh.stretch(sheared) == pytest.approx(by[0] / by[1])


def test_a_line_along_the_border_is_left_and_nothing_folds() -> None:
    at_border = Marked(np.array([[3.0, 100.0], [4.0, 400.0]]))
    made = reshape(turned(3.0), [at_border], NONE)
    assert made.greatest < 1.6


def test_what_is_turned_too_far_is_refused() -> None:
    with pytest.raises(CannotReshapeError):
        reshape(turned(44.0, 40.0), MARKED, NONE)


class TestLattice:
    LATTICE = Lattice(Rectangle(10, 20, 200, 100), np.random.default_rng(5).uniform(-1, 1, (5, 9, 2)))

    def test_between_the_nodes_against_scipy(self) -> None:
        """scipy's RegularGridInterpolator, linear, is bilinear too."""
        from scipy.interpolate import RegularGridInterpolator

        theirs = RegularGridInterpolator(
            (np.linspace(20, 120, 5), np.linspace(10, 210, 9)), self.LATTICE.values
        )
        points = np.random.default_rng(6).uniform([10, 20], [210, 120], (50, 2))
        assert np.allclose(self.LATTICE.at(points), theirs(points[:, ::-1]), atol=1e-12)

    def test_its_inverse(self) -> None:
        nodes = self.LATTICE.nodes
        lattice = Lattice(self.LATTICE.area, nodes * 2 + 3 * self.LATTICE.values)
        points = np.random.default_rng(7).uniform([10, 20], [210, 120], (50, 2))
        found = lattice.inverse(lattice.at(points), points + 4)
        assert np.allclose(found, points, atol=1e-8)

    def test_what_cannot_be_reached_is_none(self) -> None:
        flat = Lattice(self.LATTICE.area, self.LATTICE.nodes * [1.0, 0.0])
        assert np.isnan(flat.inverse(np.array([[50.0, 5.0]]), np.array([[50.0, 50.0]]))).all()

    def test_a_fold_is_seen(self) -> None:
        nodes = self.LATTICE.nodes.copy()
        assert not Lattice(self.LATTICE.area, nodes).folds
        nodes[2, 3] += [40, 0]
        assert Lattice(self.LATTICE.area, nodes).folds


def test_segments_of_a_drawn_picture() -> None:
    picture = np.full((400, 600, 3), 200, np.uint8)
    cv2.line(picture, (100, 80), (420, 120), (20, 20, 20), 3, cv2.LINE_AA)
    cv2.line(picture, (1, 20), (1, 380), (20, 20, 20), 2)
    found = find_segments(picture)
    assert len(found) >= 1
    slope = np.rad2deg(np.arctan2(40, 320))
    for ends in found:
        assert abs((angle(ends) - slope + 90) % 180 - 90) < 0.5
    assert len(find_segments(np.full((50, 60, 3), 128, np.uint8))) == 0
