"""Small pictures for the screen, and masks."""

from __future__ import annotations

import io
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from sequor.core.raster.pixels import Picture
from sequor.imaging.colour import light_of


def write_mask(mask: NDArray[np.bool_], path: Path) -> None:
    """Write a mask (height, width) as a grey PNG, white where it is set."""
    Image.fromarray(np.where(mask, 255, 0).astype(np.uint8)).save(path, "PNG", compress_level=1)


def small_jpeg(picture: Picture, quality: int = 88, profile: bytes | None = None) -> bytes:
    """A JPEG for the screen; ``profile``: of its colours, None for sRGB."""
    buffer = io.BytesIO()
    Image.fromarray(picture).save(buffer, "JPEG", quality=quality, subsampling=0, icc_profile=profile)
    return buffer.getvalue()


def reduce_to(picture: Picture, longest: int) -> Picture:
    """The picture with its longest side at most ``longest`` pixels, never enlarged: light is averaged, not
    code values, else fine bright lines would darken."""
    height, width = picture.shape[:2]
    scale = longest / max(height, width)
    if scale >= 1:
        return picture
    return reduced(picture, (max(1, round(width * scale)), max(1, round(height * scale))))


def reduced(picture: Picture, size: tuple[int, int]) -> Picture:
    """The picture at a smaller ``size``, width and height, by averaging the light of what each pixel covers.

    The curve is that of sRGB (IEC 61966-2-1), from which those of other profiles differ little for this.
    """
    light, codes = _curves(picture.dtype.itemsize)
    wide = cv2.LUT(picture, light) if picture.dtype == np.uint8 else light[picture]
    small = cv2.resize(wide, size, interpolation=cv2.INTER_AREA)
    return np.asarray(codes[small], picture.dtype)


@lru_cache(maxsize=2)
def _curves(depth: int) -> tuple[NDArray[np.uint16], Picture]:
    """Light in 16 bits for each code of so many bytes, and the code for each light."""
    most = 256**depth - 1
    light = light_of(np.arange(most + 1) / most)
    back = np.arange(65536) / 65535
    coded = np.where(back <= 0.0031308, back * 12.92, 1.055 * back ** (1 / 2.4) - 0.055)
    kind = np.uint8 if depth == 1 else np.uint16
    return np.asarray(light * 65535 + 0.5, np.uint16), np.asarray(coded * most + 0.5, kind)
