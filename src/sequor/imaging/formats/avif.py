"""AVIF (AV1 Image File Format 1.1), of 8 and 10 bits."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PIL import Image

from sequor.imaging.formats.avif_items import with_items
from sequor.imaging.formats.base import ExportFormat, Manner, blocks_for_pillow
from sequor.imaging.rows import Rows

SPEED = 7


class Avif(ExportFormat):
    name = "avif"
    bytes_per_megapixel = 1_200_000

    def write(self, rows: Rows, path: Path, manner: Manner) -> None:
        if rows.deep:
            path.write_bytes(_deep(rows, manner))
            return
        subsampling = {"444": "4:4:4", "420": "4:2:0"}[manner.subsampling]
        Image.fromarray(rows.whole()).save(
            path,
            "AVIF",
            quality=manner.quality,
            subsampling=subsampling,
            speed=SPEED,
            **blocks_for_pillow(manner),
        )


def _deep(rows: Rows, manner: Manner) -> bytes:
    """In 10 bits, which Pillow does not write."""
    from imagecodecs import avif_encode  # heavy, and needed by few

    coded = avif_encode(
        np.ascontiguousarray(rows.whole()) >> 6,
        level=manner.quality,
        speed=SPEED,
        bitspersample=10,
        pixelformat={"444": "yuv444", "420": "yuv420"}[manner.subsampling],
        # As Pillow does: those of sRGB, which a profile overrules (ITU-T H.273: 1, 13, 6).
        primaries=1,
        transfer=13,
        matrix=6,
    )
    return with_items(bytes(coded), manner.profile, manner.blocks)
