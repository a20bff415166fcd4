"""AVIF (AV1 Image File Format 1.1), of 8 and 10 bits."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from sequor.core.raster.pixels import Picture
from sequor.imaging.formats.avif_items import with_items
from sequor.imaging.formats.base import ExportFormat, Manner, blocks_for_pillow, image_of, with_alpha

SPEED = 7


class Avif(ExportFormat):
    name = "avif"
    bytes_per_megapixel = 1_200_000

    def write(self, picture: Picture, path: Path, manner: Manner, opacity: Picture | None = None) -> None:
        if picture.dtype == np.uint16:
            path.write_bytes(_deep(picture, manner, opacity))
            return
        subsampling = {"444": "4:4:4", "420": "4:2:0"}[manner.subsampling]
        image_of(picture, opacity).save(
            path,
            "AVIF",
            quality=manner.quality,
            subsampling=subsampling,
            speed=SPEED,
            **blocks_for_pillow(manner),
        )


def _deep(picture: Picture, manner: Manner, opacity: Picture | None) -> bytes:
    """In 10 bits, which Pillow does not write."""
    from imagecodecs import avif_encode  # heavy, and needed by few

    coded = avif_encode(
        with_alpha(picture, opacity) >> 6,
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
