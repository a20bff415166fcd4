"""TIFF (revision 6.0): strips and tiles, planar or not, in 8 and 16 bits and floating point."""

from __future__ import annotations

import logging
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from sequor.core.raster.pixels import Picture
from sequor.imaging.colour import cmyk_to_rgb, usable, wide_rgb
from sequor.imaging.originals.base import (
    BAND_ROWS,
    MANY,
    TRANSPARENT,
    TRANSPOSED,
    Header,
    OriginalKind,
    alpha_of,
    damaged,
    refused,
    three_colours,
    upright,
)
from sequor.imaging.originals.pillow import about_inks

# What is odd in a file is told by us, or does not matter.
logging.getLogger("tifffile").setLevel(logging.CRITICAL)

MAGIC = {b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"}

WHITE_IS_ZERO, BLACK_IS_ZERO, RGB, PALETTE, SEPARATED, YCBCR = 0, 1, 2, 3, 5, 6
"""PhotometricInterpretation (tag 262)."""


class Tiff(OriginalKind):
    name = "tiff"
    called = "TIFF"
    turn = 1

    def matches(self, path: Path, start: bytes) -> bool:
        return start[:4] in MAGIC

    def header(self, path: Path) -> Header:
        with _opened(path) as file:
            page = file.pages[0]
            _refuse(page)
            orientation = _orientation(page)
            width, height = int(page.imagewidth), int(page.imagelength)
            if orientation in TRANSPOSED:
                width, height = height, width
            bits = 8 if page.dtype.itemsize == 1 else 16
            return Header(self.name, width, height, orientation, bits)

    def decode(self, path: Path) -> Picture:
        with _opened(path) as file:
            page = file.pages[0]
            return upright(_tried(page, _plain), _orientation(page))

    def opacity(self, path: Path) -> Picture | None:
        with _opened(path) as file:
            page = file.pages[0]
            if not page.extrasamples or page.photometric in (PALETTE, SEPARATED):
                return None
            alpha = alpha_of(_tried(page, _values))
            return None if alpha is None else upright(alpha, _orientation(page))

    def profile(self, path: Path) -> bytes | None:
        with _opened(path) as file:
            page = file.pages[0]
            if page.photometric == SEPARATED:
                return wide_rgb()
            return usable(_profile(page))

    def notices(self, path: Path) -> list[str]:
        found = []
        with _opened(path) as file:
            page = file.pages[0]
            # Reduced copies of the same picture are no pictures of their own (NewSubfileType, bit 0).
            others = sum(not one.is_reduced for one in file.pages)
            if others > 1:
                found.append(MANY.format(others).replace("main", "first"))
            if page.dtype.kind == "f":
                found.append("The photo's values are floating point. They were scaled to 16 bits.")
            if page.photometric == SEPARATED:
                found.append(about_inks(_profile(page)))
            elif page.extrasamples:
                found.append(TRANSPARENT)
        return found


def _opened(path: Path) -> Any:
    from tifffile import TiffFile  # heavy, and not needed for most photos

    try:
        file = TiffFile(path)
        if not len(file.pages):
            raise ValueError("no page")
        return file
    except Exception as error:
        raise damaged(error) from None


def _profile(page: Any) -> bytes | None:
    tag = page.tags.get(34675)
    return None if tag is None else bytes(tag.value)


def _orientation(page: Any) -> int:
    tag = page.tags.get(274)
    value = 1 if tag is None else int(tag.value)
    return value if 1 <= value <= 8 else 1


def _refuse(page: Any) -> None:
    if page.photometric not in (WHITE_IS_ZERO, BLACK_IS_ZERO, RGB, PALETTE, SEPARATED, YCBCR):
        raise refused(
            f"This is a TIFF with colours of the kind {page.photometric!s}, which Sequor cannot open"
        )
    if page.dtype is None or page.dtype.kind not in "ufb" or page.dtype.itemsize > 8:
        raise refused(f"This is a TIFF with values of the kind {page.dtype}, which Sequor cannot open")


def _tried(page: Any, how: Callable[[Any], Picture]) -> Picture:
    """The values of a page. Raises UnreadablePictureError."""
    _refuse(page)
    try:
        return how(page)
    except Exception as error:
        raise damaged(error) from None


def _plain(page: Any) -> Picture:
    """The page as (h, w, 3), uint8 or uint16."""
    values = _values(page)
    if page.photometric == PALETTE:
        # (3, 2^bits) of 16 bits (tag 320).
        return np.ascontiguousarray(np.asarray(page.colormap, np.uint16).T[values])
    if page.photometric == SEPARATED:
        eight = values if values.dtype == np.uint8 else (values >> 8).astype(np.uint8)
        return np.asarray(
            cmyk_to_rgb(Image.fromarray(np.ascontiguousarray(eight[..., :4]), "CMYK"), _profile(page))
        )
    return three_colours(values)[0]


def _values(page: Any) -> Picture:
    """The page's own values, (h, w) or (h, w, n), uint8 or uint16."""
    values = np.asarray(page.asarray())
    if values.ndim == 3 and page.planarconfig == 2 and values.shape[0] <= 5 < values.shape[2]:
        values = values.transpose(1, 2, 0)
    if values.dtype.kind == "f":
        values = _scaled(values)
    elif values.dtype == np.bool_ or page.bitspersample == 1:
        values = np.asarray(values, np.uint8) * 255
    elif values.dtype.itemsize > 2:
        values = (values >> (8 * values.dtype.itemsize - 16)).astype(np.uint16)
    elif page.bitspersample not in (8, 16):
        values = (values << (8 * values.dtype.itemsize - page.bitspersample)).astype(values.dtype)
    if page.photometric == WHITE_IS_ZERO:
        values = np.iinfo(values.dtype).max - values
    return np.asarray(values)


def _scaled(values: Any) -> Picture:
    """Floating point from 0 to 1, or to the highest value where that is more, as 16 bits."""
    most = max(1.0, float(np.max(values, initial=1.0, where=np.isfinite(values))))
    scaled = np.empty(values.shape, np.uint16)
    for top in range(0, len(values), BAND_ROWS):
        rows = np.s_[top : top + BAND_ROWS]
        finite = np.nan_to_num(values[rows].astype(np.float32), nan=0.0, posinf=most, neginf=0.0)
        scaled[rows] = np.clip(finite / most, 0, 1) * 65535 + 0.5
    return scaled
