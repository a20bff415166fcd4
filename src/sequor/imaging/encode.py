"""Small pictures for the screen, and masks."""

from __future__ import annotations

import io
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from sequor.core.raster.pixels import Picture


def write_mask(mask: NDArray[np.bool_], path: Path) -> None:
    """Write a mask (height, width) as a grey PNG, white where it is set."""
    Image.fromarray(np.where(mask, 255, 0).astype(np.uint8)).save(path, "PNG", compress_level=1)


def small_jpeg(picture: Picture, quality: int = 88) -> bytes:
    """An sRGB JPEG for the screen."""
    buffer = io.BytesIO()
    Image.fromarray(picture).save(buffer, "JPEG", quality=quality, subsampling=0)
    return buffer.getvalue()


def reduce_to(picture: Picture, longest: int) -> Picture:
    """The picture with its longest side at most ``longest`` pixels, by area averaging; never enlarged."""
    height, width = picture.shape[:2]
    scale = longest / max(height, width)
    if scale >= 1:
        return picture
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    return np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), np.uint8)
