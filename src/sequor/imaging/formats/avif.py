"""AVIF (AV1 Image File Format 1.1), of 8 bits: no encoder here takes more of them together with a profile."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from sequor.core.raster.pixels import Picture
from sequor.imaging.formats.base import ExportFormat, Manner, blocks_for_pillow, image_of


class Avif(ExportFormat):
    name = "avif"
    bytes_per_megapixel = 1_200_000

    def write(
        self, picture: Picture, path: Path, manner: Manner, clear: NDArray[np.bool_] | None = None
    ) -> None:
        subsampling = {"444": "4:4:4", "420": "4:2:0"}[manner.subsampling]
        image_of(picture, clear).save(
            path,
            "AVIF",
            quality=manner.quality,
            subsampling=subsampling,
            speed=7,
            **blocks_for_pillow(manner),
        )
