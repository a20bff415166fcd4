"""Attitude and intrinsics against general-purpose references."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from sequor.core.camera import Attitude, intrinsics, levelling

angle = st.floats(-60, 60)


@given(angle, angle, angle)
def test_rotation_is_scipys_intrinsic_yaw_pitch_roll(roll: float, pitch: float, yaw: float) -> None:
    """scipy.spatial.transform.Rotation, capital letters: rotations about the axes that turn along."""
    expected = Rotation.from_euler("YXZ", [yaw, pitch, roll], degrees=True).as_matrix()
    assert np.allclose(Attitude(roll, pitch, yaw).rotation(), expected, atol=1e-12)


def test_signs_of_the_attitude() -> None:
    """Aimed up: forward goes up (y negative). Turned right: forward goes right. Clockwise: right goes down."""
    forward, right = np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0])
    assert (Attitude(pitch=10).rotation() @ forward)[1] < 0
    assert (Attitude(yaw=10).rotation() @ forward)[0] > 0
    assert (Attitude(roll=10).rotation() @ right)[1] > 0


def test_35mm_equivalent_is_by_the_diagonal() -> None:
    """CIPA DCG-001-Translation-2005, equal diagonal angle of view. A 50 mm lens on 36 x 24 mm (6000 x 4000
    pixels of 6 micrometres) has a focal length of 50 / 0.006 = 8333 px."""
    camera = intrinsics(6000, 4000, focal_35mm=50)
    assert camera.focal_px == pytest.approx(50 / 0.006, rel=2e-4)
    assert camera.source == "35mm"


def test_35mm_equivalent_uncertainty() -> None:
    """A whole number is known to 1/sqrt 12 of a millimetre; 1 % is added in square."""
    camera = intrinsics(3000, 2000, focal_35mm=28)
    assert camera.focal_sd / camera.focal_px == pytest.approx(np.hypot(1 / np.sqrt(12) / 28, 0.01), rel=0.01)


def test_first_known_focal_length_wins() -> None:
    known = {"corrected_focal_px": 1.0, "photo_focal_px": 2.0, "focal_35mm": 3.0}
    assert intrinsics(30, 20, **known).source == "correction"
    assert intrinsics(30, 20, **{**known, "corrected_focal_px": None}).focal_px == 2.0
    assumed = intrinsics(3000, 2000)
    assert (assumed.source, assumed.focal_sd / assumed.focal_px) == ("assumed", pytest.approx(0.4))


@given(angle, st.sampled_from([(3000, 2000), (2000, 3000), (640, 640)]), st.floats(500, 9000))
def test_roll_alone_is_the_rotation_about_the_centre(
    roll: float, size: tuple[int, int], focal: float
) -> None:
    width, height = size
    camera = intrinsics(width, height, photo_focal_px=focal)
    homography = levelling(camera, Attitude(roll=roll), Attitude())
    turn = Rotation.from_euler("z", roll, degrees=True).as_matrix()
    shift = np.array([[1, 0, width / 2], [0, 1, height / 2], [0, 0, 1.0]])
    assert np.allclose(homography, shift @ turn @ np.linalg.inv(shift), atol=1e-8)


@given(st.floats(-30, 30), st.floats(-30, 30), st.floats(-30, 30), st.floats(0.7, 1.4))
def test_centre_keeps_its_place_and_its_area(
    roll: float, pitch: float, yaw: float, proportion: float
) -> None:
    """docs/geometry.md: the photo's centre keeps its coordinates and its area scale 1 there."""
    camera = intrinsics(3000, 2000, photo_focal_px=2600)
    homography = levelling(camera, Attitude(roll, pitch, yaw), Attitude(), proportion)

    def carry(x: float, y: float) -> np.ndarray:
        point = homography @ [x, y, 1.0]
        return point[:2] / point[2]

    centre, step = carry(1500, 1000), 1e-3
    right, down = (carry(1500 + step, 1000) - centre) / step, (carry(1500, 1000 + step) - centre) / step
    assert np.allclose(centre, [1500, 1000], atol=1e-6)
    assert abs(right[0] * down[1] - right[1] * down[0]) == pytest.approx(1, abs=1e-4)


def test_correction_past_a_right_angle_is_refused() -> None:
    with pytest.raises(ValueError, match="90°"):
        levelling(intrinsics(30, 20), Attitude(yaw=95), Attitude())
