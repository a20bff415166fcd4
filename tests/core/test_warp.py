"""The one map: inverse, mesh, outline."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from worlds import opencv_terms

from sequor.core.camera import Attitude, intrinsics
from sequor.core.distortion.models import Lens, half_diagonal
from sequor.core.warp.base import Warp
from sequor.core.warp.homography import warp_of

CAMERA = intrinsics(3000, 2000, focal_35mm=31)
BARREL = Lens((1500, 1000), half_diagonal(3000, 2000), k1=-0.08, k2=0.01, p1=0.001)
ROLLED = warp_of(CAMERA, Attitude(roll=2.3), Attitude())


def test_no_correction_is_the_identity() -> None:
    assert np.allclose(warp_of(CAMERA, Attitude(), Attitude()).homography, np.eye(3), atol=1e-12)


def test_what_is_left_in_is_not_taken_out() -> None:
    half = warp_of(CAMERA, Attitude(roll=2.3), Attitude(roll=1.3))
    one = warp_of(CAMERA, Attitude(roll=1.0), Attitude())
    assert np.allclose(half.homography, one.homography, atol=1e-9)


def test_forth_and_back() -> None:
    points = np.random.default_rng(1).uniform([0, 0], [3000, 2000], (50, 2))
    assert np.allclose(ROLLED.to_photo(ROLLED.to_corrected(points)), points, atol=1e-9)


def test_points_against_opencv() -> None:
    """cv2.perspectiveTransform carries the same points to the same places."""
    tilted = warp_of(CAMERA, Attitude(roll=1, pitch=12, yaw=-8), Attitude())
    points = np.random.default_rng(2).uniform([0, 0], [3000, 2000], (20, 2))
    expected = cv2.perspectiveTransform(points[None], tilted.homography)[0]
    assert np.allclose(tilted.to_corrected(points), expected, atol=1e-8)


def test_a_level_line_becomes_level() -> None:
    ends = np.array([[100.0, 900.0], [2900.0, 900.0 - 2800 * np.tan(np.deg2rad(2.3))]])
    left, right = ROLLED.to_corrected(ends)
    assert left[1] == pytest.approx(right[1], abs=1e-9)


def test_the_mesh_is_the_map() -> None:
    mesh = ROLLED.mesh()
    vertex = mesh.vertices[4, 10]
    expected = ROLLED.to_corrected(np.array([[10 / 16 * 3000, 4 / 12 * 2000]]))[0]
    assert np.allclose(vertex[:2] / vertex[2], expected)
    assert np.allclose(mesh.vertices[[0, 0, -1, -1], [0, -1, -1, 0], :2], ROLLED.outline())


def test_at_scale_is_the_same_picture_smaller() -> None:
    small = ROLLED.at_scale(0.1)
    assert (small.width, small.height) == (300, 200)
    assert np.allclose(
        small.to_corrected(np.array([[10.0, 20.0]])) * 10, ROLLED.to_corrected(np.array([[100.0, 200.0]]))
    )


HELD = Attitude(roll=1, pitch=9, yaw=-5)


def bent(lens: Lens = BARREL, attitude: Attitude = HELD) -> Warp:
    return warp_of(CAMERA, attitude, Attitude(), lens=lens)


def test_through_a_lens_against_opencv() -> None:
    """cv2.undistortPoints takes the bending out, cv2.perspectiveTransform turns: the same points in the same places."""
    focal = 2000.0
    matrix = np.array([[focal, 0, 1500], [0, focal, 1000], [0, 0, 1]])
    points = np.random.default_rng(2).uniform([200, 150], [2800, 1850], (50, 2))
    criteria = (cv2.TERM_CRITERIA_COUNT | cv2.TERM_CRITERIA_EPS, 200, 1e-14)
    ideal = cv2.undistortPoints(
        points[:, None], matrix, opencv_terms(BARREL, focal), P=matrix, criteria=criteria
    )
    expected = cv2.perspectiveTransform(ideal, bent().homography)[:, 0]
    assert np.allclose(bent().to_corrected(points), expected, atol=1e-4)
    assert np.allclose(bent().to_photo(bent().to_corrected(points)), points, atol=1e-7)


def test_the_middle_and_its_scale_stay_with_a_lens() -> None:
    middle = np.array([[1500.0, 1000.0], [1501.0, 1000.0], [1500.0, 1001.0]])
    moved = bent(attitude=Attitude()).to_corrected(middle)
    assert np.allclose(moved, middle, atol=1e-3)


def test_the_bent_mesh_is_the_map_between_its_vertices_too() -> None:
    """Half way between vertices, where the page interpolates, it is off by less than a fifth of a pixel."""
    warp = bent()
    mesh = warp.mesh()
    assert (mesh.columns, mesh.rows) == (64, 48)
    x, y = np.meshgrid((np.arange(64) + 0.5) / 64 * 3000, (np.arange(48) + 0.5) / 48 * 2000)
    exact = warp.to_corrected(np.column_stack([x.ravel(), y.ravel()]))
    v = mesh.vertices
    between = ((v[:-1, :-1] + v[:-1, 1:] + v[1:, :-1] + v[1:, 1:]) / 4).reshape(-1, 3)
    assert np.abs(between[:, :2] / between[:, 2:] - exact).max() < 0.2


def test_the_outline_is_the_photos_edge() -> None:
    """Every corner of the fine polygon lies on the photo's edge, and half way between two the chord is as near."""
    warp = bent()
    outline = warp.outline()
    between = (outline + np.roll(outline, -1, axis=0)) / 2
    for points, near in ((outline, 1e-6), (between, 0.1)):
        photo = warp.to_photo(points)
        off = np.minimum(np.abs(photo - [0, 0]).min(axis=1), np.abs(photo - [3000, 2000]).min(axis=1))
        assert off.max() < near
    assert not warp.cuts


def test_what_the_lens_does_not_reach_is_cut() -> None:
    """k1 = -0.16 records nothing beyond 0.962 half diagonals: the corners, at 1, are cut along a circle."""
    lens = Lens((1500, 1000), half_diagonal(3000, 2000), k1=-0.16)
    warp = bent(lens, Attitude())
    away = np.hypot(*(warp.to_photo(warp.outline()) - [1500, 1000]).T) / half_diagonal(3000, 2000)
    assert warp.cuts and 0.9 < away.max() < 0.9623
    mesh = warp.mesh()
    assert np.all(np.isfinite(mesh.vertices))
    reach = np.hypot(*(mesh.vertices[0, 0, :2] - [1500, 1000])) / half_diagonal(3000, 2000)
    assert reach == pytest.approx(lens.reach)


def test_a_strong_pitch_cuts_a_bent_picture_too() -> None:
    warp = bent(Lens((1500, 1000), 1800.0, k1=-0.05), Attitude(pitch=62))
    depth = warp.outline()
    assert warp.cuts and np.all(np.isfinite(depth))
    ideal = warp.lens.undistorted(warp.to_photo(depth))
    assert (ideal @ warp.homography[2, :2] + warp.homography[2, 2]).min() == pytest.approx(
        4 ** (-2 / 3), abs=1e-6
    )


def test_at_scale_takes_the_lens_along() -> None:
    small = bent().at_scale(0.1)
    assert np.allclose(
        small.to_corrected(np.array([[30.0, 40.0]])) * 10, bent().to_corrected(np.array([[300.0, 400.0]]))
    )
