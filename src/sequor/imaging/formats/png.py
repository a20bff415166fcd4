"""PNG (W3C Recommendation, third edition)."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PIL import Image

from sequor.imaging.formats.base import ExportFormat


class Png(ExportFormat):
    name = "png"
    bytes_per_megapixel = 3_200_000

    def _save(self, image: Image.Image, path: Path, quality: int, options: dict[str, Any]) -> None:
        image.save(path, "PNG", compress_level=4, **options)
