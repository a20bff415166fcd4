"""Patches as files: PNGs whose opaque pixels are the new ones, with a note on how they were made."""

from __future__ import annotations

import io
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, PngImagePlugin

from sequor.core.raster.pixels import STEP, Picture, in_eight_bits

from .decode import LARGEST_PIXELS, UnreadablePictureError
from .originals.png import bits_of
from .png_chunks import profile_chunk, text_chunk, with_chunks

NOTE = "Sequor patch"
"""The keyword of the note (PNG, 3rd ed., 11.3.3.4: iTXt)."""

LEAST_COVERED = 64
"""Of 255: a reduced pixel of which less is new has no colour of its own."""

BESIDE = np.ones((3, 3), np.uint8)

QUICK = 1
"""Level of compression: patches are written while somebody waits."""


def write_patch(
    pixels: Picture, alpha: NDArray[np.uint8], path: Path, note: str, profile: bytes | None
) -> None:
    """Write pixels (h, w, 3) of 8 or 16 bits and how much they cover (h, w), 0 to 255; where that is 0 the
    file is black."""
    there = np.where(alpha[..., None] > 0, pixels, 0).astype(pixels.dtype)
    if pixels.dtype == np.uint16:
        _write_deep(np.dstack([there, alpha.astype(np.uint16) * STEP]), path, note, profile)
        return
    rgba = np.dstack([there, alpha])
    told = PngImagePlugin.PngInfo()
    told.add_itxt(NOTE, note)
    Image.fromarray(rgba).save(path, "PNG", compress_level=QUICK, pnginfo=told, icc_profile=profile)


def _write_deep(rgba: Picture, path: Path, note: str, profile: bytes | None) -> None:
    """Pillow writes 8 bits only."""
    from imagecodecs import png_encode

    chunks = [*([profile_chunk(profile)] if profile else []), text_chunk(NOTE, note)]
    path.write_bytes(with_chunks(bytes(png_encode(rgba, level=QUICK)), chunks))


def read_patch(path: Path) -> tuple[Picture, NDArray[np.uint8]]:
    """The pixels (h, w, 3) of a patch and how much they cover (h, w). Raises UnreadablePictureError."""
    try:
        with Image.open(path) as image:
            small = image.width * image.height <= LARGEST_PIXELS
            is_patch = image.format == "PNG" and image.mode == "RGBA" and small
            deep = is_patch and bits_of(path) == 16
            rgba = np.asarray(image) if is_patch and not deep else None
        if deep:
            from imagecodecs import png_decode

            rgba = np.asarray(png_decode(path.read_bytes()), np.uint16)
    except (OSError, SyntaxError, ValueError, RuntimeError):
        raise UnreadablePictureError(
            f"the patch {path.name[:12]}… is damaged; remove it from edges.patches to have it made again"
        ) from None
    if rgba is None:
        raise UnreadablePictureError(f"{path.name[:12]}… is not a patch; take it out of the recipe")
    return rgba[..., :3], np.asarray(in_eight_bits(rgba[..., 3]), np.uint8)


def over_patch(pixels: Picture, alpha: NDArray[np.uint8], reduced: int) -> bytes:
    """A patch that lies over the picture, for the screen as PNG, reduced so many times.

    Its edge covers as much as it did. ``pixels`` are sRGB.
    """
    height, width = alpha.shape
    border = (0, -height % reduced, 0, -width % reduced)
    there = cv2.copyMakeBorder(alpha, *border, cv2.BORDER_CONSTANT).astype(np.float32)
    colour = cv2.copyMakeBorder(pixels, *border, cv2.BORDER_CONSTANT) * there[..., None]
    size = (there.shape[1] // reduced, there.shape[0] // reduced)
    share = np.asarray(cv2.resize(there, size, interpolation=cv2.INTER_AREA), np.float32)
    colour = cv2.resize(colour, size, interpolation=cv2.INTER_AREA) / np.maximum(share, 1e-3)[..., None]
    rgba = np.dstack([np.clip(colour + 0.5, 0, 255), share + 0.5]).astype(np.uint8)
    buffer = io.BytesIO()
    Image.fromarray(rgba).save(buffer, "PNG", compress_level=QUICK)
    return buffer.getvalue()


def screen_patch(pixels: Picture, mask: NDArray[np.bool_], reduced: int, margin: int) -> bytes:
    """A patch for the screen as PNG: reduced so many times, then grown on all sides by ``margin`` pixels.

    Laid under the picture, it leaves no gap. ``pixels`` are sRGB. Bytes throughout: a patch may have as many
    pixels as the photo.
    """
    height, width = mask.shape
    around = margin * reduced
    down, across = -(-height // reduced) * reduced - height, -(-width // reduced) * reduced - width
    border = (around, around + down, around, around + across)
    there = cv2.copyMakeBorder(np.where(mask, 255, 0).astype(np.uint8), *border, cv2.BORDER_CONSTANT)
    colour = cv2.copyMakeBorder(np.where(mask[..., None], pixels, 0), *border, cv2.BORDER_CONSTANT)
    if reduced > 1:
        size = (there.shape[1] // reduced, there.shape[0] // reduced)
        there = cv2.resize(there, size, interpolation=cv2.INTER_AREA)
        colour = cv2.resize(colour, size, interpolation=cv2.INTER_AREA)
        partly = (there >= LEAST_COVERED) & (there < 255)
        share = there[partly].astype(np.float32)[:, None] / 255
        colour[partly] = np.clip(colour[partly] / share + 0.5, 0, 255).astype(np.uint8)
        there = np.where(there >= LEAST_COVERED, 255, 0).astype(np.uint8)
        colour[there == 0] = 0
    for _ in range(margin):
        # Of the pixels beside it each takes the brightest: nobody sees more than a hair of it.
        fresh = (cv2.dilate(there, BESIDE) > 0) & (there == 0)
        colour[fresh] = cv2.dilate(colour, BESIDE)[fresh]
        there[fresh] = 255
    buffer = io.BytesIO()
    Image.fromarray(np.dstack([colour, there])).save(buffer, "PNG", compress_level=QUICK)
    return buffer.getvalue()
