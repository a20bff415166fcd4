"""Colour: pictures in their own profile to sRGB for the screen; profiles for what only says what it is in."""

from __future__ import annotations

import io
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache
from typing import Any

import numpy as np
from PIL import Image, ImageCms

from sequor.core.camera import Array
from sequor.core.raster.pixels import Picture, in_eight_bits
from sequor.imaging.threads import threads


def usable(profile: bytes | None) -> bytes | None:
    """The profile of an RGB picture, cut to the length that it states; None for one that does not fit or
    cannot be read (ICC.1:2022, 7.2: size at byte 0, data colour space at 16, signature at 36)."""
    if profile is None or colour_space(profile) != "RGB" or _opened(profile) is None:
        return None
    return profile[: int.from_bytes(profile[:4], "big")]


def colour_space(profile: bytes) -> str | None:
    """What kind of colours a profile is for: "RGB", "GRAY", "CMYK", …; None for what is no profile."""
    if len(profile) < 128 or profile[36:40] != b"acsp" or int.from_bytes(profile[:4], "big") > len(profile):
        return None
    return profile[16:20].decode("ascii", "replace").strip()


def grey_to_srgb(picture: Image.Image, profile: bytes) -> Image.Image | None:
    """A grey picture (mode L) through its grey profile to sRGB; None when the profile is damaged."""
    source = _opened(profile) if colour_space(profile) == "GRAY" else None
    if source is None:
        return None
    try:
        # Each grey once, and exactly: else LittleCMS goes by a grid that is 12 codes off where it is dark.
        exact = ImageCms.Flags.NOOPTIMIZE
        transform = ImageCms.buildTransform(source, ImageCms.createProfile("sRGB"), "L", "RGB", flags=exact)
        ramp = Image.fromarray(np.arange(256, dtype=np.uint8)[None])
        greys = np.asarray(ImageCms.applyTransform(ramp, transform))[0]
        return Image.fromarray(greys[np.asarray(picture)])
    except (ImageCms.PyCMSError, OSError, ValueError):
        return None


ADOBE_WHITE = (0.3127, 0.3290)
ADOBE_PRIMARIES = (0.64, 0.33, 0.21, 0.71, 0.15, 0.06)
ADOBE_GAMMA = 2.19921875
"""Adobe RGB (1998) Color Image Encoding, 4.3: chromaticities, and 2 + 51/256."""

CURVE_POINTS = 1024
BAND_ROWS = 128


def made_profile(white: tuple[float, float], primaries: tuple[float, ...], gamma: float | None) -> bytes:
    """A profile of RGB colours from chromaticities (x, y) of white, red, green and blue; ``gamma`` None: the
    curve of sRGB."""
    from imagecodecs import cms_profile  # heavy, and needed for few files

    points = [*primaries[0:2], 1.0, *primaries[2:4], 1.0, *primaries[4:6], 1.0]
    curve = {"gamma": gamma} if gamma else {"transferfunction": _srgb_curve()}
    return bytes(cms_profile("rgb", whitepoint=[*white, 1.0], primaries=points, **curve))


def light_of(codes: Array) -> Array:
    """The light of codes of sRGB, both from 0 to 1 (IEC 61966-2-1)."""
    return np.asarray(np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4))


def _srgb_curve() -> Picture:
    """Light for code values, both spread over 16 bits."""
    return np.asarray(light_of(np.linspace(0, 1, CURVE_POINTS)) * 65535 + 0.5, np.uint16)


@lru_cache(maxsize=1)
def adobe_rgb() -> bytes:
    """The profile of what says that it is in Adobe RGB and brings no profile."""
    return made_profile(ADOBE_WHITE, ADOBE_PRIMARIES, ADOBE_GAMMA)


def wide_rgb() -> bytes:
    """The profile of RGB colours that inks are converted to: it holds what can be printed."""
    return adobe_rgb()


def cmyk_to_rgb(picture: Image.Image, profile: bytes | None) -> Image.Image:
    """A picture in inks (mode CMYK) in the colours of ``wide_rgb``: by its profile, or roughly without."""
    source = _opened(profile) if profile is not None and colour_space(profile) == "CMYK" else None
    wide = ImageCms.ImageCmsProfile(io.BytesIO(wide_rgb()))
    if source is not None:
        try:
            transform = ImageCms.buildTransform(source, wide, "CMYK", "RGB")
            made = ImageCms.applyTransform(picture, transform)
            assert made is not None
            return made
        except (ImageCms.PyCMSError, OSError, ValueError):
            pass
    plain = ImageCms.buildTransform(ImageCms.createProfile("sRGB"), wide, "RGB", "RGB")
    rough = ImageCms.applyTransform(picture.convert("RGB"), plain)
    assert rough is not None
    return rough


def _opened(profile: bytes) -> ImageCms.ImageCmsProfile | None:
    try:
        return ImageCms.ImageCmsProfile(io.BytesIO(profile))
    except (ImageCms.PyCMSError, OSError):
        return None


DISPLAY_P3 = (0.680, 0.320, 0.265, 0.690, 0.150, 0.060)
"""Chromaticities of SMPTE RP 431-2, under the white of D65 and the curve of sRGB."""


@lru_cache(maxsize=1)
def display_p3() -> bytes:
    """The profile of Display P3."""
    return made_profile(ADOBE_WHITE, DISPLAY_P3, None)


def converted(picture: Picture, source: bytes | None, target: bytes | None) -> Picture:
    """A picture (h, w, 3) of either depth from one profile to another, perceptually where they have tables;
    None is sRGB."""
    from imagecodecs import CMS, cms_profile, cms_transform  # heavy, and needed by few

    if source == target:
        return picture
    made = np.empty_like(picture)
    # In 16 bits LittleCMS would else go by a grid of 33 steps, which is wrong by up to 27 codes of 8 bits in
    # what is dark in one colour of a wide profile.
    exact = CMS.FLAGS.NOOPTIMIZE if picture.dtype == np.uint16 else 0

    def convert(top: int) -> None:
        rows = np.s_[top : top + BAND_ROWS]
        made[rows] = cms_transform(
            np.ascontiguousarray(picture[rows]),
            source or cms_profile("srgb"),
            target or cms_profile("srgb"),
            colorspace="rgb",
            outcolorspace="rgb",
            outdtype=picture.dtype,
            flags=exact,
        )

    with ThreadPoolExecutor(threads()) as pool:
        for _ in pool.map(convert, range(0, len(picture), BAND_ROWS)):
            pass
    return made


class ToScreen:
    """Converts pictures from one profile to sRGB, or to Display P3 for a ``wide`` screen where that shows
    more; a missing or unusable profile is taken as sRGB. ``target``: the profile that comes out, None for
    sRGB."""

    def __init__(self, profile: bytes | None, wide: bool = False) -> None:
        self._transform: ImageCms.ImageCmsTransform | None = None
        self._profile = profile
        self.target = display_p3() if wide and profile else None
        if profile:
            try:
                source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
                wanted: Any = ImageCms.createProfile("sRGB")
                if self.target:
                    wanted = ImageCms.ImageCmsProfile(io.BytesIO(self.target))
                self._transform = ImageCms.buildTransform(source, wanted, "RGB", "RGB")
            except (ImageCms.PyCMSError, OSError):
                self._transform = self.target = None

    def __call__(self, picture: Picture) -> Picture:
        """The picture (height, width, 3), of either depth, in ``target`` with 8 bits."""
        if self._transform is None:
            return in_eight_bits(picture)
        if picture.dtype == np.uint16:
            return self._from_sixteen(picture)
        image = ImageCms.applyTransform(Image.fromarray(picture), self._transform)
        return np.asarray(image)

    def _from_sixteen(self, picture: Picture) -> Picture:
        """Pillow's transforms have 8 bits only."""
        return in_eight_bits(converted(picture, self._profile, self.target))


def profile_name(profile: bytes | None) -> str | None:
    """The profile's own description; None when there is none or it cannot be read."""
    if not profile:
        return None
    try:
        return ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(profile))).strip() or None
    except (ImageCms.PyCMSError, OSError):
        return None
