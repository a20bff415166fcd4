"""JPEG XL (ISO/IEC 18181), of 8 and 16 bits, in sRGB: no encoder here writes a profile."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from sequor.imaging.formats.base import ExportFormat, Manner
from sequor.imaging.originals.bmff import box
from sequor.imaging.originals.jxl import CODESTREAM, CONTAINER
from sequor.imaging.rows import Rows

FILE_TYPE = b"jxl \0\0\0\0jxl "


class JpegXl(ExportFormat):
    name = "jxl"
    bytes_per_megapixel = 2_000_000

    def write(self, rows: Rows, path: Path, manner: Manner) -> None:
        from imagecodecs import jpegxl_encode  # heavy, and needed by few

        lossless = manner.quality == 100
        options = {"lossless": True} if lossless else {"distance": _distance(manner.quality)}
        coded = bytes(jpegxl_encode(np.ascontiguousarray(rows.whole()), **options))
        if coded.startswith(CODESTREAM):
            coded = CONTAINER + box(b"ftyp", FILE_TYPE) + box(b"jxlc", coded)
        blocks = manner.blocks
        further = [
            *([box(b"Exif", bytes(4) + blocks.exif)] if blocks.exif else []),
            *([box(b"xml ", blocks.xmp)] if blocks.xmp else []),
        ]
        path.write_bytes(b"".join([coded, *further]))


def _distance(quality: int) -> float:
    """How far a picture may be from the original, in just noticeable differences: 1 is hardly seen (libjxl's
    own rule for qualities)."""
    return 0.1 + (100 - quality) * 0.09 if quality >= 30 else 6.4 + (30 - quality) * 0.6
