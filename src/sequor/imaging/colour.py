"""Colour for the screen: pictures in their own profile to sRGB."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image, ImageCms

from .decode import Picture


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
