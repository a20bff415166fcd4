"""The one map: inverse, mesh, outline."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from sequor.core.camera import Attitude, intrinsics
from sequor.core.mapping import Mapping

CAMERA = intrinsics(3000, 2000, focal_35mm=31)
ROLLED = Mapping.compile(CAMERA, Attitude(roll=2.3), Attitude())


def test_no_correction_is_the_identity() -> None:
    assert np.allclose(Mapping.compile(CAMERA, Attitude(), Attitude()).homography, np.eye(3), atol=1e-12)


def test_what_is_left_in_is_not_taken_out() -> None:
    half = Mapping.compile(CAMERA, Attitude(roll=2.3), Attitude(roll=1.3))
    one = Mapping.compile(CAMERA, Attitude(roll=1.0), Attitude())
    assert np.allclose(half.homography, one.homography, atol=1e-9)


def test_forth_and_back() -> None:
    points = np.random.default_rng(1).uniform([0, 0], [3000, 2000], (50, 2))
    assert np.allclose(ROLLED.to_photo(ROLLED.to_corrected(points)), points, atol=1e-9)


def test_points_against_opencv() -> None:
    """cv2.perspectiveTransform carries the same points to the same places."""
    tilted = Mapping.compile(CAMERA, Attitude(roll=1, pitch=12, yaw=-8), Attitude())
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
