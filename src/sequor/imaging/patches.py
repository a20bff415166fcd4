"""Patches as files: PNGs whose opaque pixels are the new ones, with a note on how they were made."""

from __future__ import annotations

import io
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, PngImagePlugin

from .decode import LARGEST_PIXELS, Picture, UnreadablePictureError

NOTE = "Sequor patch"
"""The keyword of the note (PNG, 3rd ed., 11.3.3.4: iTXt)."""

QUICK = 1
"""Level of compression: patches are written while somebody waits."""


def write_patch(
    pixels: Picture, mask: NDArray[np.bool_], path: Path, note: str, profile: bytes | None
) -> None:
    """Write pixels (h, w, 3) where a mask (h, w) is set; elsewhere the file is clear and black."""
    rgba = np.dstack([np.where(mask[..., None], pixels, 0), np.where(mask, 255, 0)]).astype(np.uint8)
    told = PngImagePlugin.PngInfo()
    told.add_itxt(NOTE, note)
    Image.fromarray(rgba).save(path, "PNG", compress_level=QUICK, pnginfo=told, icc_profile=profile)


def read_patch(path: Path) -> tuple[Picture, NDArray[np.bool_]]:
    """The pixels (h, w, 3) of a patch and the mask (h, w) of the new ones. Raises UnreadablePictureError."""
    try:
        with Image.open(path) as image:
            if image.format != "PNG" or image.mode != "RGBA" or image.width * image.height > LARGEST_PIXELS:
                raise UnreadablePictureError(f"{path.name[:12]}… is not a patch; take it out of the recipe")
            rgba = np.asarray(image)
    except (OSError, SyntaxError, ValueError) as error:
        if isinstance(error, UnreadablePictureError):
            raise
        raise UnreadablePictureError(
            f"the patch {path.name[:12]}… is damaged; take it out of the recipe to have it made anew"
        ) from None
    return rgba[..., :3], rgba[..., 3] > 0


def screen_patch(pixels: Picture, mask: NDArray[np.bool_], reduced: int, margin: int) -> bytes:
    """A patch for the screen as PNG: reduced so many times, then grown on all sides by ``margin`` pixels.

    Laid under the picture, it leaves no gap. ``pixels`` are sRGB.
    """
    height, width = mask.shape
    around = margin * reduced
    down, across = -(-height // reduced) * reduced - height, -(-width // reduced) * reduced - width
    border = (around, around + down, around, around + across)
    share = cv2.copyMakeBorder(mask.astype(np.float32), *border, cv2.BORDER_CONSTANT)
    colour = cv2.copyMakeBorder((pixels * mask[..., None]).astype(np.float32), *border, cv2.BORDER_CONSTANT)
    if reduced > 1:
        size = (share.shape[1] // reduced, share.shape[0] // reduced)
        share = cv2.resize(share, size, interpolation=cv2.INTER_AREA)
        colour = cv2.resize(colour, size, interpolation=cv2.INTER_AREA)
    colour = colour / np.maximum(share, 1e-6)[..., None]
    there = (share > 0).astype(np.float32)
    for _ in range(margin):
        near = cv2.blur(there, (3, 3))
        fresh = (there == 0) & (near > 1e-6)
        colour[fresh] = cv2.blur(colour * there[..., None], (3, 3))[fresh] / near[fresh][:, None]
        there[fresh] = 1
    rgba = np.dstack([np.clip(colour + 0.5, 0, 255), there * 255]).astype(np.uint8)
    buffer = io.BytesIO()
    Image.fromarray(rgba).save(buffer, "PNG", compress_level=QUICK)
    return buffer.getvalue()
