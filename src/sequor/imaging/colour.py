"""Colour for the screen: pictures in their own profile to sRGB."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image, ImageCms

from sequor.core.raster.pixels import Picture


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
        transform = ImageCms.buildTransform(source, ImageCms.createProfile("sRGB"), "L", "RGB")
        return ImageCms.applyTransform(picture, transform)
    except (ImageCms.PyCMSError, OSError, ValueError):
        return None


def _opened(profile: bytes) -> ImageCms.ImageCmsProfile | None:
    try:
        return ImageCms.ImageCmsProfile(io.BytesIO(profile))
    except (ImageCms.PyCMSError, OSError):
        return None


class ToScreen:
    """Converts pictures from one profile to sRGB; a missing or unusable profile is taken as sRGB."""

    def __init__(self, profile: bytes | None) -> None:
        self._transform: ImageCms.ImageCmsTransform | None = None
        if profile:
            try:
                source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
                self._transform = ImageCms.buildTransform(
                    source, ImageCms.createProfile("sRGB"), "RGB", "RGB"
                )
            except (ImageCms.PyCMSError, OSError):
                self._transform = None

    def __call__(self, picture: Picture) -> Picture:
        """The picture (height, width, 3) in sRGB."""
        if self._transform is None:
            return picture
        image = ImageCms.applyTransform(Image.fromarray(picture), self._transform)
        return np.asarray(image)


def profile_name(profile: bytes | None) -> str | None:
    """The profile's own description; None when there is none or it cannot be read."""
    if not profile:
        return None
    try:
        return ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(profile))).strip() or None
    except (ImageCms.PyCMSError, OSError):
        return None
