"""Colours in the profiles that Debian ships (icc-profiles-free, colord-data), against their formulas worked out here.

The reference is no colour library: the curves and the matrix of each profile (ICC.1:2022, 10.6, 10.18 and E.2), then the
matrix and the curve of sRGB (IEC 61966-2-1, adapted to D50 after Bradford).
"""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np
import pytest
from originals import tiff_bytes, written
from pictures import image_bytes
from PIL import Image

from sequor.imaging.colour import ToScreen
from sequor.imaging.decode import colour_profile, decode

FOLDER = Path("/usr/share/color/icc")

PATCHES = np.array(
    [
        *((115, 82, 68), (194, 150, 130), (98, 122, 157), (87, 108, 67), (133, 128, 177), (103, 189, 170)),
        *((214, 126, 44), (80, 91, 166), (193, 90, 99), (94, 60, 108), (157, 188, 64), (224, 163, 46)),
        *((56, 61, 150), (70, 148, 73), (175, 54, 60), (231, 199, 31), (187, 86, 149), (8, 133, 161)),
        *((243, 243, 242), (200, 200, 200), (160, 160, 160), (122, 122, 121), (85, 85, 85), (52, 52, 52)),
    ],
    float,
)
"""The 24 patches of the usual colour chart in sRGB (values from memory; what they are does not matter here)."""

SRGB_TO_D50 = np.array(
    [[0.4360747, 0.3850649, 0.1430804], [0.2225045, 0.7168786, 0.0606169], [0.0139322, 0.0971045, 0.7141733]]
)
"""Linear sRGB to XYZ under D50 (IEC 61966-2-1 after Bradford)."""


def tags(profile: bytes) -> dict[str, bytes]:
    """The tags of a profile (ICC.1:2022, 7.3)."""
    count = struct.unpack(">I", profile[128:132])[0]
    found = {}
    for at in range(132, 132 + 12 * count, 12):
        name, offset, size = struct.unpack(">4sII", profile[at : at + 12])
        found[name.decode()] = profile[offset : offset + size]
    return found


def curve(tag: bytes, codes: np.ndarray) -> np.ndarray:
    """Light for codes 0 to 1 by a curve: a table, a gamma, or a formula of the kinds 0 and 3."""
    if tag[:4] == b"para":
        kind = struct.unpack(">H", tag[8:10])[0]
        values = np.frombuffer(tag[12:], ">i4").astype(float) / 65536
        if kind == 0:
            return codes ** values[0]
        g, a, b, c, d = values[:5]
        return np.where(codes >= d, np.maximum(a * codes + b, 0) ** g, c * codes)
    count = struct.unpack(">I", tag[8:12])[0]
    table = np.frombuffer(tag[12 : 12 + 2 * count], ">u2").astype(float)
    if count == 0:
        return codes
    if count == 1:
        return np.asarray(codes ** (table[0] / 256))
    return np.interp(codes, np.linspace(0, 1, count), table / 65535)


def linear(codes: np.ndarray) -> np.ndarray:
    """The light of sRGB codes 0 to 1."""
    return np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)


def encoded(light: np.ndarray) -> np.ndarray:
    """sRGB codes, 0 to 255, of light."""
    light = np.clip(light, 0, 1)
    return 255 * np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)


def matrix_of(told: dict[str, bytes]) -> np.ndarray:
    """The matrix of a profile, from its light to XYZ under D50."""
    columns = [np.frombuffer(told[name][8:20], ">i4").astype(float) for name in ("rXYZ", "gXYZ", "bXYZ")]
    return np.stack(columns, 1) / 65536


def in_srgb(profile: bytes, codes: np.ndarray) -> np.ndarray:
    """sRGB codes of a profile's codes (n, 3) 0 to 1."""
    told = tags(profile)
    light = [curve(told[name], codes[:, at]) for at, name in enumerate(("rTRC", "gTRC", "bTRC"))]
    return encoded(np.stack(light, 1) @ matrix_of(told).T @ np.linalg.inv(SRGB_TO_D50).T)


def as_codes(profile: bytes) -> tuple[np.ndarray, np.ndarray]:
    """The patches in a profile, 0 to 1, and the light that they have there: through its matrix and curves the other way
    round."""
    told = tags(profile)
    light = linear(PATCHES / 255) @ SRGB_TO_D50.T @ np.linalg.inv(matrix_of(told)).T
    steps = np.linspace(0, 1, 65536)
    channels = [
        np.interp(light[:, at], curve(told[name], steps), steps)
        for at, name in enumerate(("rTRC", "gTRC", "bTRC"))
    ]
    found: np.ndarray = np.stack(channels, 1)
    return found, light


def matrix_profiles() -> list[Path]:
    """The profiles of RGB colours that are a matrix and curves."""
    found = []
    for path in sorted([*FOLDER.glob("*.ic[cm]"), *FOLDER.glob("colord/*.icc")]):
        profile = path.read_bytes()
        if (
            profile[16:20] == b"RGB "
            and {"rXYZ", "rTRC"} <= tags(profile).keys()
            and "A2B0" not in tags(profile)
        ):
            found.append(path)
    return found


def test_the_profiles_are_there() -> None:
    assert len(matrix_profiles()) >= 20


@pytest.mark.parametrize("path", matrix_profiles(), ids=lambda path: path.stem)
@pytest.mark.parametrize("deep", [True, False])
def test_twenty_four_patches_on_the_screen(tmp_path: Path, path: Path, deep: bool) -> None:
    """Worst of the patches that the profile can hold: 2 codes."""
    profile = path.read_bytes()
    codes, light = as_codes(profile)
    holds = np.all((light > 0) & (light < 1), axis=1)
    most = 65535 if deep else 255
    values = np.asarray(codes * most + 0.5, np.uint16 if deep else np.uint8)[None].repeat(8, axis=0)
    original = written(tmp_path, tiff_bytes(values, photometric="rgb", iccprofile=profile))
    seen = ToScreen(colour_profile(original))(decode(original))[4].astype(float)
    wanted = PATCHES if deep else in_srgb(profile, values[0] / 255)
    assert holds.sum() >= 20
    assert np.abs(seen - wanted)[holds].max() <= 2


@pytest.mark.parametrize("name", ["Gray-CIE_L.icc", "Gray.icc"])
def test_greys_by_their_own_profiles(tmp_path: Path, name: str) -> None:
    """Lightness of CIE L* by its formula (CIE 15:2004, 8.2.1), and a curve, as sRGB codes within 2."""
    grey = np.arange(256, dtype=np.uint8)[None].repeat(4, axis=0)
    share = grey[0] / 255
    profile = (FOLDER / name).read_bytes()
    light = curve(tags(profile)["kTRC"], share)
    if name == "Gray-CIE_L.icc":
        light = np.where(share > 0.08, ((share + 0.16) / 1.16) ** 3, share / 9.033)
    original = written(tmp_path, image_bytes(Image.fromarray(grey), "PNG", icc_profile=profile))
    assert np.abs(decode(original)[0, :, 1] - encoded(light)).max() <= 2
