"""Arrays to picture files."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from .decode import Picture

Format = Literal["jpeg", "png"]

ENDINGS: dict[str, Format] = {".jpg": "jpeg", ".jpeg": "jpeg", ".png": "png"}
ENDING_OF: dict[Format, str] = {"jpeg": "jpg", "png": "png"}
BYTES_PER_MEGAPIXEL: dict[Format, int] = {"jpeg": 1_500_000, "png": 3_200_000}
"""A generous guess of the size of a file, to see beforehand whether the disk has room."""


def write(
    picture: Picture,
    path: Path,
    kind: Format,
    quality: int,
    profile: bytes | None = None,
    ppi: float | None = None,
    clear: NDArray[np.bool_] | None = None,
) -> None:
    """Write a (height, width, 3) uint8 picture; JPEG with full colour resolution from quality 90 on.

    Where ``clear`` (height, width) is set, a PNG is transparent. ``ppi`` goes into JFIF's density (whole
    pixels per inch) or PNG's pHYs (pixels per metre).
    """
    image = Image.fromarray(picture)
    if clear is not None:
        image.putalpha(Image.fromarray(np.where(clear, 0, 255).astype(np.uint8)))
    density = {} if ppi is None else {"dpi": (ppi, ppi)}
    if kind == "jpeg":
        chroma = 0 if quality >= 90 else 2
        image.save(path, "JPEG", quality=quality, subsampling=chroma, icc_profile=profile, **density)
    else:
        image.save(path, "PNG", compress_level=4, icc_profile=profile, **density)


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
