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
from sequor.recipe.model.export import CARRIES, ExportPart

from .filling import Mask

BAND_ROWS = 256

SCREEN_SIGMA, PAPER_SIGMA = 0.6, 0.9
"""Pixels over which an edge is soft after a reduction, and on paper at ``PAPER_PPI``, where ink spreads
(common practice, no source)."""
PAPER_PPI = 300.0
MOST_SHARP = 2.0
"""By how much of the difference from its surroundings the most sharpening raises a pixel."""

LUMA = (0.299, 0.587, 0.114)
"""Of red, green and blue codes (ITU-R BT.601, 2.5.1)."""


def opacity_of(
    original: Path, turns: int, warp: Warp, place: Rectangle, hole: Mask, new: Mask, clear: bool
) -> Picture | None:
    """How opaque the pixels of a file are, (height, width) as the original's are; None: all of them wholly.

    ``place`` lies in the output pixels of ``warp``. What is ``new`` is opaque; the ``hole`` is so too unless
    it is ``clear``."""
    own = opacity(original, turns)
    if own is None and not clear:
        return None
    if own is None:
        return np.where(hole, np.uint8(0), np.uint8(255))
    size = round(place.width), round(place.height)
    three = resample(
        own[..., None].repeat(3, axis=2), warp, place.x, place.y, *size, background=(255, 255, 255)
    )
    seen = np.ascontiguousarray(three[..., 0])
    seen[new] = np.iinfo(seen.dtype).max
    if clear:
        seen[hole] = 0
    return seen


def without_white(pixels: Picture, opaque: Picture) -> Picture:
    """Colours that were laid on white, by themselves: as opaque as is said they give the same on white."""
    plain = np.empty_like(pixels)
    highest = codes_of(pixels).highest
    for top in range(0, len(pixels), BAND_ROWS):
        rows = np.s_[top : top + BAND_ROWS]
        share = opaque[rows, :, None].astype(np.float32) / codes_of(opaque).highest
        alone = highest + (pixels[rows] - np.float32(highest)) / np.maximum(share, 1e-3)
        plain[rows] = np.clip(alone + 0.5, 0, highest)
    return plain


def sharpened(pixels: Picture, wanted: ExportPart, ppi: float | None) -> Picture:
    """The picture with its edges raised, as much and for what is wanted: brightness alone, so that no edge
    gets a colour."""
    if not wanted.sharpen:
        return pixels
    sigma = SCREEN_SIGMA
    if wanted.sharpen_for == "paper":
        sigma = PAPER_SIGMA * max(1.0, (ppi or PAPER_PPI) / PAPER_PPI)
    halo = int(np.ceil(4 * sigma))
    sharp, highest = np.empty_like(pixels), codes_of(pixels).highest
    for top in range(0, len(pixels), BAND_ROWS):
        above = min(halo, top)
        band = pixels[top - above : top + BAND_ROWS + halo].astype(np.float32)
        light = band @ np.array(LUMA, np.float32)
        raised = (light - cv2.GaussianBlur(light, (0, 0), sigma)) * np.float32(MOST_SHARP * wanted.sharpen)
        rows = np.s_[top : top + BAND_ROWS]
        count = len(sharp[rows])
        own = np.s_[above : above + count]
        sharp[rows] = np.clip(band[own] + raised[own, :, None] + 0.5, 0, highest)
    return sharp


def in_colours(pixels: Picture, profile: bytes | None, wanted: ExportPart) -> tuple[Picture, bytes | None]:
    """The pixels as deep and in the profile that the file is to have, and that profile."""
    carries = CARRIES[wanted.format]
    target = profile
    if wanted.profile != "keep":
        target = display_p3() if wanted.profile == "display-p3" else None
    if not carries.profiles:
        target = None
    deep = carries.deep and (wanted.depth or 8 * pixels.dtype.itemsize) > 8
    pixels = converted(pixels, profile, target)
    return (in_sixteen_bits(pixels) if deep else in_eight_bits(pixels)), target


def as_deep(opaque: Picture, pixels: Picture) -> Picture:
    """Opacities as deep as the pixels they belong to."""
    return in_sixteen_bits(opaque) if pixels.dtype == np.uint16 else in_eight_bits(opaque)
