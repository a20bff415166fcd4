"""The compiled form of the map says what the warps say, and the resampler takes both depths of pictures."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import map_coordinates

from sequor.core.camera import Attitude, intrinsics
from sequor.core.distortion.models import Lens, database_lens, half_diagonal
from sequor.core.raster.resample import resample
from sequor.core.warp.base import Warp
from sequor.core.warp.homography import BentWarp, PlainWarp, homography_warp, warp_of
from sequor.core.warp.located import locate
from sequor.core.warp.reshape import reshape
from sequor.core.warp.reshaped import ReshapedWarp

WIDE, HIGH = 6000, 4000
CAMERA = intrinsics(WIDE, HIGH, focal_35mm=24)
HELD = Attitude(roll=3, pitch=11, yaw=-6)
MIDDLE, UNIT = (WIDE / 2, HIGH / 2), half_diagonal(WIDE, HIGH)
BROWN = Lens(MIDDLE, UNIT, -0.08, 0.02, -0.004, 6e-4, -4e-4)
ODD = database_lens("ptlens", MIDDLE, UNIT, [0.01, -0.04, 0.015])
MILD = warp_of(CAMERA, Attitude(roll=2), Attitude(), lens=BROWN)

WARPS: dict[str, tuple[type[Warp], Warp]] = {
    "plain": (PlainWarp, warp_of(CAMERA, HELD, Attitude(), 1.1)),
    "brown": (BentWarp, warp_of(CAMERA, HELD, Attitude(), lens=BROWN)),
    "odd terms": (BentWarp, warp_of(CAMERA, HELD, Attitude(), lens=ODD)),
    "reshaped": (ReshapedWarp, reshape(MILD, [], np.zeros((0, 2, 2))).warp),
    "resized": (BentWarp, MILD.resized(0.5, 0.25)),
    "reduced": (BentWarp, MILD.at_scale(0.1)),
}


@pytest.mark.parametrize("name", WARPS)
def test_the_compiled_map_is_the_map(name: str) -> None:
    """To 1e-9 pixels, all over the corrected picture."""
    kind, warp = WARPS[name]
    assert type(warp) is kind
    low, high = warp.outline().min(axis=0), warp.outline().max(axis=0)
    points = np.random.default_rng(7).uniform(low, high, (3000, 2))
    expected, compiled = warp.to_photo(points), warp.compiled()
    shown = 0
    for point, there in zip(points, expected, strict=True):
        known, x, y = locate(*compiled, *point)
        if known:
            shown += 1
            assert np.hypot(x - there[0], y - there[1]) < 1e-9
    assert shown > 2000


def test_sixteen_bits_are_kept() -> None:
    """Against scipy's interpolating spline on a smooth picture, in steps far finer than 8 bits have."""
    down, across = np.mgrid[:120, :160]
    smooth = 30000 + 20000 * np.sin(across / 23) * np.cos(down / 19)
    picture = np.repeat(np.round(smooth).astype(np.uint16)[..., None], 3, axis=2)
    warp = warp_of(intrinsics(160, 120), Attitude(roll=4), Attitude())
    out = resample(picture, warp, 20, 20, 120, 80)
    assert out.dtype == np.uint16
    columns, rows = np.meshgrid(np.arange(120) + 20.5, np.arange(80) + 20.5)
    photo = warp.to_photo(np.column_stack([columns.ravel(), rows.ravel()])) - 0.5
    truth = map_coordinates(picture[..., 0].astype(float), photo[:, ::-1].T, order=5).reshape(80, 120)
    assert np.abs(out[..., 1] - truth).max() < 20


def test_both_depths_are_the_same_picture() -> None:
    """With clipped edges, in a reduced copy too: 16 bits say what 8 do, to their rounding."""
    picture = np.random.default_rng(3).choice(np.array([0, 40, 200, 255], np.uint8), (90, 130, 3))
    for size in (1.0, 0.4):
        warp = homography_warp(130, 90, np.diag([size, size, 1.0]) @ warp_of(
            intrinsics(130, 90), Attitude(roll=3), Attitude()).homography)  # fmt: skip
        area = (5.0, 5.0, 100, 70)
        fine = resample(picture.astype(np.uint16) * 257, warp, *area, background=(7, 8, 9))
        coarse = resample(picture, warp, *area, background=(7, 8, 9))
        assert np.abs(fine / 257 - coarse).max() <= 0.51
