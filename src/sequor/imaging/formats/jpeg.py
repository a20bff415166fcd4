"""JPEG (ITU-T T.81)."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PIL import Image

from sequor.imaging.formats.base import ExportFormat

FULL_COLOUR_FROM = 90
"""The quality from which on colours are written at full resolution."""


class Jpeg(ExportFormat):
    name = "jpeg"
    bytes_per_megapixel = 1_500_000
    keeps_comment = True

    def _save(self, image: Image.Image, path: Path, quality: int, options: dict[str, Any]) -> None:
        chroma = 0 if quality >= FULL_COLOUR_FROM else 2
        image.save(path, "JPEG", quality=quality, subsampling=chroma, **options)
