"""The pixels of an exported file: how opaque, how sharp, in which colours and how deep they are."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np

from sequor.core.raster.pixels import Picture, codes_of, in_eight_bits, in_sixteen_bits
from sequor.core.raster.resample import resample
from sequor.core.rectangle import Rectangle
from sequor.core.warp.base import Warp
from sequor.imaging.colour import converted, display_p3
from sequor.imaging.decode import opacity
from sequor.imaging.rows import Rows
from sequor.recipe.model.export import CARRIES, ExportPart

from .filling import Mask

SCREEN_SIGMA, PAPER_SIGMA = 0.6, 0.9
"""Pixels over which an edge is soft after a reduction, and on paper at ``PAPER_PPI``, where ink spreads
(common practice, no source)."""
PAPER_PPI = 300.0
MOST_SHARP = 2.0
"""By how much of the difference from its surroundings the most sharpening raises a pixel."""

LUMA = (0.299, 0.587, 0.114)
"""Of red, green and blue codes (ITU-R BT.601, 2.5.1)."""


def opacity_of(
    original: Path, turns: int, warp: Warp, place: Rectangle, clear: Mask | None, new: Mask | None
) -> Picture | None:
    """How opaque the pixels of a file are, (height, width) as the original's are; None: all of them wholly.

    ``place`` lies in the output pixels of ``warp``. What is ``new`` is opaque, what is ``clear`` is not.
    """
    own = opacity(original, turns)
    if own is None:
        return None if clear is None else np.where(clear, np.uint8(0), np.uint8(255))
    size = round(place.width), round(place.height)
    grey = own[..., None].repeat(3, axis=2)
    three = resample(grey, warp, place.x, place.y, *size, background=(255, 255, 255))
    seen = np.ascontiguousarray(three[..., 0])
    if new is not None:
        seen[new] = np.iinfo(seen.dtype).max
    if clear is not None:
        seen[clear] = 0
    return seen


def finished(
    source: Rows, opaque: Picture | None, profile: bytes | None, wanted: ExportPart, ppi: float | None
) -> tuple[Rows, bytes | None]:
    """The rows of a file, from corrected ones in the colours of ``profile``: not laid on white where they are
    not opaque, sharpened, converted, as deep as is wanted; and the profile that they are in then."""
    carries = CARRIES[wanted.format]
    target = profile
    if wanted.profile != "keep":
        target = display_p3() if wanted.profile == "display-p3" else None
    if not carries.profiles:
        target = None
    deep = carries.deep > 0 and (wanted.depth or (16 if source.deep else 8)) > 8
    as_deep = in_sixteen_bits if deep else in_eight_bits
    sigma = _sigma(wanted, ppi)
    halo = int(np.ceil(4 * sigma)) if wanted.sharpen else 0

    def read(top: int, count: int) -> Picture:
        above, below = min(halo, top), min(halo, source.height - top - count)
        pixels = source.read(top - above, above + count + below)
        own = None if opaque is None else opaque[top - above : top + count + below]
        if own is not None:
            pixels = without_white(pixels, own)
        if wanted.sharpen:
            pixels = _sharpened(pixels, wanted.sharpen, sigma)
        kept = np.s_[above : above + count]
        pixels = as_deep(converted(pixels[kept], profile, target))
        return pixels if own is None else np.dstack([pixels, as_deep(own[kept])])

    return Rows(source.width, source.height, read, deep, opaque is not None), target


def without_white(pixels: Picture, opaque: Picture) -> Picture:
    """Colours that were laid on white, by themselves: as opaque as is said they give the same on white."""
    highest = codes_of(pixels).highest
    share = opaque[..., None].astype(np.float32) / codes_of(opaque).highest
    alone = highest + (pixels - np.float32(highest)) / np.maximum(share, 1e-3)
    return np.clip(alone + 0.5, 0, highest).astype(pixels.dtype)


def _sigma(wanted: ExportPart, ppi: float | None) -> float:
    if wanted.sharpen_for == "screen":
        return SCREEN_SIGMA
    return PAPER_SIGMA * max(1.0, (ppi or PAPER_PPI) / PAPER_PPI)


def _sharpened(pixels: Picture, amount: float, sigma: float) -> Picture:
    """The picture with its edges raised: brightness alone, so that no edge gets a colour."""
    values = pixels.astype(np.float32)
    light = values @ np.array(LUMA, np.float32)
    raised = (light - cv2.GaussianBlur(light, (0, 0), sigma)) * np.float32(MOST_SHARP * amount)
    return np.clip(values + raised[..., None] + 0.5, 0, codes_of(pixels).highest).astype(pixels.dtype)
