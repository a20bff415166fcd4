"""PNG (W3C Recommendation, third edition), of 8 and 16 bits."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from sequor.imaging.formats.base import ExportFormat, Manner
from sequor.imaging.png_chunks import chunk, density_chunk, profile_chunk, text_chunk, with_chunks
from sequor.imaging.rows import Rows

XMP_KEYWORD = "XML:com.adobe.xmp"
"""Under which XMP stands in a PNG (XMP Specification part 3, 1.1.5)."""

LEVEL = 4


class Png(ExportFormat):
    name = "png"
    bytes_per_megapixel = 6_400_000

    def write(self, rows: Rows, path: Path, manner: Manner) -> None:
        from imagecodecs import png_encode  # heavy, and not needed before something is written

        blocks = manner.blocks
        chunks = [
            *([profile_chunk(manner.profile)] if manner.profile else []),
            *([] if manner.ppi is None else [density_chunk(manner.ppi)]),
            *([chunk(b"eXIf", blocks.exif)] if blocks.exif else []),
            *([text_chunk(XMP_KEYWORD, blocks.xmp.decode("utf-8", "replace"))] if blocks.xmp else []),
        ]
        coded = bytes(png_encode(np.ascontiguousarray(rows.whole()), level=LEVEL))
        path.write_bytes(with_chunks(coded, chunks))
