"""AVIF (AV1 Image File Format 1.1) in 8, 10 and 12 bits."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np

from sequor.core.raster.pixels import Picture
from sequor.imaging.originals.base import Header, alpha_of, damaged, spread, three_colours, upright
from sequor.imaging.originals.bmff import brands
from sequor.imaging.originals.pillow import PillowKind, opened, orientation_of


class Avif(PillowKind):
    name = "avif"
    called = "AVIF"

    def matches(self, path: Path, start: bytes) -> bool:
        return bool({b"avif", b"avis"} & brands(start))

    def header(self, path: Path) -> Header:
        return replace(super().header(path), bits=_bits(path))

    def decode(self, path: Path) -> Picture:
        return super().decode(path) if _bits(path) == 8 else three_colours(self._deep(path))[0]

    def opacity(self, path: Path) -> Picture | None:
        return super().opacity(path) if _bits(path) == 8 else alpha_of(self._deep(path))

    def _deep(self, path: Path) -> Picture:
        # Pillow reduces more than 8 bits to 8 without a word.
        from imagecodecs import avif_decode

        try:
            deep = np.asarray(avif_decode(path.read_bytes()), np.uint16)
        except Exception as error:
            raise damaged(error) from None
        with opened(path) as image:
            return upright(spread(deep, _bits(path)), orientation_of(image))


def _bits(path: Path) -> int:
    """By the box of the pixels' depths (ISO/IEC 23008-12, 6.5.6: pixi), 8 where there is none."""
    with path.open("rb") as file:
        start = file.read(1 << 16)
    at = start.find(b"pixi")
    return start[at + 9] if 0 <= at < len(start) - 9 and start[at + 9] in (8, 10, 12) else 8
