"""Resampling against OpenCV and against what a picture must keep."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
import pyvips
from pictures import smooth_picture

from sequor.core.camera import Attitude, intrinsics
from sequor.core.distortion.models import Lens, half_diagonal
from sequor.core.raster.resample import lanczos_table, resample
from sequor.core.warp.base import Warp
from sequor.core.warp.homography import warp_of

SHIFT = np.array([[1, 0, -0.5], [0, 1, -0.5], [0, 0, 1]])


def rolled(degrees: float, width: int, height: int) -> Warp:
    return warp_of(intrinsics(width, height), Attitude(roll=degrees), Attitude())


def test_no_correction_gives_the_same_pixels() -> None:
    picture = np.random.default_rng(1).integers(0, 256, (60, 90, 3), np.uint8)
    assert np.array_equal(resample(picture, rolled(0, 90, 60), 0, 0, 90, 60), picture)


@pytest.mark.parametrize("degrees", [2.3, -7.0, 31.0])
def test_pixels_against_opencv(degrees: float) -> None:
    """cv2.warpPerspective counts from pixel centres, so its matrix is S H S^-1 with S a shift by -0.5. On a smooth
    picture any good kernel gives the same value to a code or two."""
    picture = smooth_picture(320, 200)
    warp = rolled(degrees, 320, 200)
    ours = resample(picture, warp, 0, 0, 320, 200)
    matrix = SHIFT @ warp.homography @ np.linalg.inv(SHIFT)
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
    warp = rolled(3, 200, 120)
    whole = resample(picture, warp, -10, -10, 220, 140)
    assert np.array_equal(resample(picture, warp, 40, 30, 64, 50), whole[40:90, 50:114])


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


WIDE, HIGH = 900, 600


def zone(x: np.ndarray, y: np.ndarray, most: float) -> tuple[np.ndarray, np.ndarray]:
    """A zone plate about the picture's middle, and its local frequency in cycles per pixel, ``most`` at the short side."""
    square = (x - WIDE / 2) ** 2 + (y - HIGH / 2) ** 2
    pace = np.pi * most / (HIGH / 2)
    return 127.5 + 100 * np.cos(pace * square), pace * np.sqrt(square) / np.pi


def edge(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """An edge slanted by 5 degrees, blurred by 0.6 px, from 40 to 210."""
    from scipy.special import erf

    across = (x - WIDE / 2) * np.cos(np.deg2rad(5)) + (y - HIGH / 2) * np.sin(np.deg2rad(5))
    return 125 + 85 * erf(across / (0.6 * np.sqrt(2)))


def sampled(values: np.ndarray) -> np.ndarray:
    return np.repeat(np.clip(np.round(values), 0, 255).astype(np.uint8)[..., None], 3, axis=2)


CENTRES = np.meshgrid(np.arange(WIDE) + 0.5, np.arange(HIGH) + 0.5)
CAMERA = intrinsics(WIDE, HIGH, photo_focal_px=900)
MAPS = {
    "turned": warp_of(CAMERA, Attitude(roll=3), Attitude()),
    "all": warp_of(
        CAMERA,
        Attitude(3, 1, -0.5),
        Attitude(),
        lens=Lens((WIDE / 2, HIGH / 2), half_diagonal(WIDE, HIGH), -0.03, 0.01, -0.002, 4e-4, -3e-4),
    ),
}


def signal_to_noise(out: np.ndarray, truth: np.ndarray, where: np.ndarray) -> float:
    off = out[..., 1][where].astype(float) - truth[where]
    return float(20 * np.log10(255 / np.sqrt(np.mean(off**2))))


def where_from(warp: Warp) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Photo points of all output pixels, and which lie well inside."""
    photo = warp.to_photo(np.column_stack([CENTRES[0].ravel(), CENTRES[1].ravel()]))
    inside = np.all((photo > 6) & (photo < [WIDE - 6, HIGH - 6]), axis=1).reshape(HIGH, WIDE)
    return photo[:, 0].reshape(HIGH, WIDE), photo[:, 1].reshape(HIGH, WIDE), inside


def by_opencv(picture: np.ndarray, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    maps = (np.float32(x - 0.5), np.float32(y - 0.5))
    return cv2.remap(picture, *maps, cv2.INTER_LANCZOS4)


def by_libvips(picture: np.ndarray, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    index = pyvips.Image.new_from_array(np.dstack([np.float32(x - 0.5), np.float32(y - 0.5)]))
    image = pyvips.Image.new_from_array(picture)
    return np.asarray(image.mapim(index, interpolate=pyvips.Interpolate.new("bicubic")).numpy())


@pytest.mark.parametrize("name", MAPS)
def test_zone_plate_against_the_analytic_picture(name: str) -> None:
    """At least 51 dB up to 0.35 cycles per pixel in 8 bits, better than OpenCV's Lanczos of as many taps (whose phases are
    thirty-seconds of a pixel) and than libvips' bicubic."""
    warp = MAPS[name]
    x, y, inside = where_from(warp)
    truth, frequency = zone(x, y, 0.4)
    picture = sampled(zone(*CENTRES, 0.4)[0])
    where = inside & (frequency < 0.35)
    ours = signal_to_noise(resample(picture, warp, 0, 0, WIDE, HIGH), truth, where)
    assert ours >= 51
    assert ours > signal_to_noise(by_opencv(picture, x, y), truth, where) + 2
    assert ours > signal_to_noise(by_libvips(picture, x, y), truth, where) + 5


@pytest.mark.parametrize("name", MAPS)
def test_slanted_edge_against_the_analytic_picture(name: str) -> None:
    warp = MAPS[name]
    x, y, inside = where_from(warp)
    picture = sampled(edge(*CENTRES))
    ours = signal_to_noise(resample(picture, warp, 0, 0, WIDE, HIGH), edge(x, y), inside)
    assert ours >= 53
    assert ours >= signal_to_noise(by_opencv(picture, x, y), edge(x, y), inside) - 0.1
    assert ours >= signal_to_noise(by_libvips(picture, x, y), edge(x, y), inside)


@pytest.mark.parametrize(("low", "high"), [(0, 255), (100, 255), (0, 90), (30, 252)])
def test_no_ringing_beside_a_clipped_edge(low: int, high: int) -> None:
    """A hard edge to a clipped area, slanted through all phases: no value leaves its range by more than two codes, and both
    plains are flat to two."""
    across = CENTRES[0] - WIDE / 2 + 0.15 * (CENTRES[1] - HIGH / 2)
    picture = sampled(np.where(across > 0, high, low).astype(float))
    warp = MAPS["turned"]
    x, y, inside = where_from(warp)
    out = resample(picture, warp, 0, 0, WIDE, HIGH)[..., 1].astype(int)
    there = (x - WIDE / 2 + 0.15 * (y - HIGH / 2)) / np.hypot(1, 0.15)
    assert out[inside].min() >= low - 2 and out[inside].max() <= high + 2
    assert np.abs(out[inside & (there > 1.5)] - high).max() <= 2
    assert np.abs(out[inside & (there < -1.5)] - low).max() <= 2


def test_detail_that_the_output_cannot_show_is_filtered_out() -> None:
    """A strong pitch shrinks the near part to under a half: there a fine grating becomes even grey, where OpenCV without a
    filter shows stripes of its own making. Where nothing shrinks, the grating stays."""
    warp = warp_of(intrinsics(WIDE, HIGH, photo_focal_px=500), Attitude(pitch=-50), Attitude())
    x, y, inside = where_from(warp)
    shrink = np.hypot(np.gradient(x, axis=1), np.gradient(x, axis=0))
    assert shrink[inside].max() > 2
    picture = sampled(127.5 + 100 * np.cos(2 * np.pi * 0.4 * CENTRES[0]))
    ours = resample(picture, warp, 0, 0, WIDE, HIGH)[..., 1].astype(float)
    theirs = by_opencv(picture, x, y)[..., 1].astype(float)
    small = inside & (shrink > 1.6)
    assert np.std(ours[small]) < 6
    assert np.std(theirs[small]) > 40
    assert np.std(ours[inside & (shrink < 1.05)]) > 50


@pytest.mark.parametrize("lying", [True, False])
def test_sides_beyond_what_a_short_integer_holds(lying: bool) -> None:
    """33,000 pixels, where OpenCV's remap refuses; the far end is right too."""
    size = (33_000, 24) if lying else (24, 33_000)
    row = np.linspace(0, 255, 33_000).astype(np.uint8)
    picture = np.repeat(
        (np.tile(row, (24, 1)) if lying else np.tile(row[:, None], (1, 24)))[..., None], 3, axis=2
    )
    warp = warp_of(
        intrinsics(*size), Attitude(), Attitude(), lens=Lens((size[0] / 2, size[1] / 2), 20_000.0, k1=1e-7)
    )
    out = resample(picture, warp, 0, 0, *size)
    assert out.shape == picture.shape
    assert np.abs(out.astype(int) - picture)[1:-1, 1:-1].max() <= 1


def test_memory_is_the_output_and_little_more() -> None:
    """By the tracing of numpy's allocations: at most the output and 32 MiB while 12 megapixels are rendered."""
    import tracemalloc

    picture = np.zeros((3000, 4000, 3), np.uint8)
    warp = warp_of(intrinsics(4000, 3000), Attitude(roll=2), Attitude())
    resample(picture[:64, :64].copy(), warp_of(intrinsics(64, 64), Attitude(), Attitude()), 0, 0, 64, 64)
    tracemalloc.start()
    resample(picture, warp, 0, 0, 4000, 3000)
    _, peak = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert peak < picture.nbytes + 32 * 2**20
