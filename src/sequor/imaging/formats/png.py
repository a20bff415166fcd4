"""PNG (W3C Recommendation, third edition), of 8 and 16 bits."""

from __future__ import annotations

from pathlib import Path

from sequor.core.raster.pixels import Picture
from sequor.imaging.formats.base import ExportFormat, Manner, with_alpha
from sequor.imaging.png_chunks import chunk, density_chunk, profile_chunk, text_chunk, with_chunks

XMP_KEYWORD = "XML:com.adobe.xmp"
"""Under which XMP stands in a PNG (XMP Specification part 3, 1.1.5)."""

LEVEL = 4


class Png(ExportFormat):
    name = "png"
    bytes_per_megapixel = 6_400_000

    def write(self, picture: Picture, path: Path, manner: Manner, opacity: Picture | None = None) -> None:
        from imagecodecs import png_encode  # heavy, and not needed before something is written

        blocks = manner.blocks
        chunks = [
            *([profile_chunk(manner.profile)] if manner.profile else []),
            *([] if manner.ppi is None else [density_chunk(manner.ppi)]),
            *([chunk(b"eXIf", blocks.exif)] if blocks.exif else []),
            *([text_chunk(XMP_KEYWORD, blocks.xmp.decode("utf-8", "replace"))] if blocks.xmp else []),
        ]
        coded = bytes(png_encode(with_alpha(picture, opacity), level=LEVEL))
        path.write_bytes(with_chunks(coded, chunks))
