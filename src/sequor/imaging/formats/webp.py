"""WebP (RFC 9649)."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from sequor.core.raster.pixels import Picture
from sequor.imaging.formats.base import ExportFormat, Manner, blocks_for_pillow, image_of


class WebP(ExportFormat):
    name = "webp"
    bytes_per_megapixel = 1_200_000

    def write(
        self, picture: Picture, path: Path, manner: Manner, clear: NDArray[np.bool_] | None = None
    ) -> None:
        image_of(picture, clear).save(
            path, "WEBP", quality=manner.quality, method=4, **blocks_for_pillow(manner)
        )
