"""JPEG (ITU-T T.81)."""

from __future__ import annotations

import struct
from pathlib import Path

from sequor.core.raster.pixels import Picture
from sequor.imaging.blocks import iptc_segment
from sequor.imaging.formats.base import LONGEST_SEGMENT, ExportFormat, Manner, blocks_for_pillow, image_of


class Jpeg(ExportFormat):
    name = "jpeg"
    bytes_per_megapixel = 1_500_000
    carries_iptc = True

    def write(self, picture: Picture, path: Path, manner: Manner, opacity: Picture | None = None) -> None:
        blocks = manner.blocks
        options = blocks_for_pillow(manner)
        further = [(0xE1, one) for one in blocks.extended]
        if blocks.iptc:
            further.append((0xED, iptc_segment(blocks.iptc)))
        extra = b"".join(
            b"\xff" + bytes([marker]) + struct.pack(">H", len(content) + 2) + content
            for marker, content in further
            if len(content) <= LONGEST_SEGMENT
        )
        if manner.ppi is not None:
            options["dpi"] = (manner.ppi, manner.ppi)
        if blocks.comment:
            options["comment"] = blocks.comment
        image_of(picture, None).save(
            path,
            "JPEG",
            quality=manner.quality,
            subsampling={"444": 0, "420": 2}[manner.subsampling],
            progressive=manner.progressive,
            extra=extra,
            **options,
        )
