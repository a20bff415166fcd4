"""Resampling against OpenCV and against what a picture must keep."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from pictures import smooth_picture

from sequor.core.camera import Attitude, intrinsics
from sequor.core.mapping import Mapping
from sequor.core.resample import lanczos_table, resample

SHIFT = np.array([[1, 0, -0.5], [0, 1, -0.5], [0, 0, 1]])


def rolled(degrees: float, width: int, height: int) -> Mapping:
    return Mapping.compile(intrinsics(width, height), Attitude(roll=degrees), Attitude())


def test_no_correction_gives_the_same_pixels() -> None:
    picture = np.random.default_rng(1).integers(0, 256, (60, 90, 3), np.uint8)
    assert np.array_equal(resample(picture, rolled(0, 90, 60), 0, 0, 90, 60), picture)


@pytest.mark.parametrize("degrees", [2.3, -7.0, 31.0])
def test_pixels_against_opencv(degrees: float) -> None:
    """cv2.warpPerspective counts from pixel centres, so its matrix is S H S^-1 with S a shift by -0.5. On a smooth
    picture any good kernel gives the same value to a code or two."""
    picture = smooth_picture(320, 200)
    mapping = rolled(degrees, 320, 200)
    ours = resample(picture, mapping, 0, 0, 320, 200)
    matrix = SHIFT @ mapping.homography @ np.linalg.inv(SHIFT)
    theirs = cv2.warpPerspective(picture, matrix, (320, 200), flags=cv2.INTER_CUBIC)
    inside = cv2.warpPerspective(np.ones((200, 320), np.uint8), matrix, (320, 200), flags=cv2.INTER_NEAREST)
    safe = cv2.erode(inside, np.ones((9, 9), np.uint8), borderValue=0) > 0
    difference = np.abs(ours.astype(int) - theirs)[safe]
    assert difference.max() <= 2
    assert difference.mean() < 0.3


def test_half_a_pixel_is_minded() -> None:
    """A quarter turn carries every pixel exactly onto another."""
    picture = np.random.default_rng(4).integers(0, 256, (80, 80, 3), np.uint8)
    turned = resample(picture, rolled(90, 80, 80), 0, 0, 80, 80)
    assert np.array_equal(turned, np.rot90(picture, -1))


def test_offset_output_is_a_part_of_the_whole() -> None:
    picture = smooth_picture(200, 120)
    mapping = rolled(3, 200, 120)
    whole = resample(picture, mapping, -10, -10, 220, 140)
    assert np.array_equal(resample(picture, mapping, 40, 30, 64, 50), whole[40:90, 50:114])


def test_outside_is_background_and_the_edge_does_not_fade() -> None:
    white = np.full((100, 150, 3), 255, np.uint8)
    out = resample(white, rolled(10, 150, 100), -40, -40, 230, 180, background=(1, 2, 3))
    values = {tuple(int(v) for v in value) for value in out.reshape(-1, 3)}
    assert values == {(255, 255, 255), (1, 2, 3)}


def test_kernel_is_a_partition_of_unity() -> None:
    table = lanczos_table()
    assert np.allclose(table.sum(axis=1), 1, atol=1e-6)
    assert np.allclose(table[0], [0, 0, 0, 1, 0, 0, 0, 0], atol=1e-7)


def test_fine_detail_survives_better_than_with_a_linear_kernel() -> None:
    """Turned forth and back, a texture keeps more contrast than with linear interpolation."""
    rng = np.random.default_rng(6)
    noise = cv2.GaussianBlur(rng.normal(128, 90, (200, 200, 3)), (0, 0), 1.0)
    picture = np.clip(noise, 0, 255).astype(np.uint8)

    def linear(image: np.ndarray, degrees: float) -> np.ndarray:
        matrix = SHIFT @ rolled(degrees, 200, 200).homography @ np.linalg.inv(SHIFT)
        return cv2.warpPerspective(image, matrix, (200, 200), flags=cv2.INTER_LINEAR)

    def lanczos(image: np.ndarray, degrees: float) -> np.ndarray:
        return resample(image, rolled(degrees, 200, 200), 0, 0, 200, 200)

    middle = (slice(50, 150), slice(50, 150))

    def loss(turn: object) -> float:
        back = turn(turn(picture, 5), -5)  # type: ignore[operator]
        return float(np.abs(back[middle].astype(int) - picture[middle]).mean())

    assert loss(lanczos) < 0.5 * loss(linear)


def test_progress_rises_to_one() -> None:
    seen: list[float] = []
    picture = np.zeros((600, 8, 3), np.uint8)
    resample(picture, rolled(0, 8, 600), 0, 0, 8, 600, progress=seen.append)
    assert seen == sorted(seen) and seen[-1] == 1 and len(seen) == 3
