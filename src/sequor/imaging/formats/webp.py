"""WebP (RFC 9649)."""

from __future__ import annotations

from pathlib import Path

from PIL import Image

from sequor.imaging.formats.base import ExportFormat, Manner, blocks_for_pillow
from sequor.imaging.rows import Rows


class WebP(ExportFormat):
    name = "webp"
    bytes_per_megapixel = 1_200_000

    def write(self, rows: Rows, path: Path, manner: Manner) -> None:
        Image.fromarray(rows.whole()).save(
            path, "WEBP", quality=manner.quality, method=4, **blocks_for_pillow(manner)
        )
