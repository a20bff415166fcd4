"""WebP (RFC 9649)."""

from __future__ import annotations

from pathlib import Path

from sequor.core.raster.pixels import Picture
from sequor.imaging.formats.base import ExportFormat, Manner, blocks_for_pillow, image_of


class WebP(ExportFormat):
    name = "webp"
    bytes_per_megapixel = 1_200_000

    def write(self, picture: Picture, path: Path, manner: Manner, opacity: Picture | None = None) -> None:
        image_of(picture, opacity).save(
            path, "WEBP", quality=manner.quality, method=4, **blocks_for_pillow(manner)
        )
