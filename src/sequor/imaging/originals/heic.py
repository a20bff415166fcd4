"""HEIC (ISO/IEC 23008-12) in 8 and 10 bits; its pixels come upright by what the container says."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from sequor.core.raster.pixels import Picture
from sequor.imaging.colour import usable
from sequor.imaging.originals.base import (
    MANY,
    Header,
    OriginalKind,
    alpha_of,
    damaged,
    refused,
    three_colours,
)
from sequor.imaging.originals.bmff import brands

DEPTHS = {8, 10}


class Heic(OriginalKind):
    name = "heic"
    called = "HEIC"

    def matches(self, path: Path, start: bytes) -> bool:
        return bool({b"heic", b"heix", b"heim", b"heis", b"mif1", b"hevc"} & brands(start))

    def header(self, path: Path) -> Header:
        image = _opened(path)
        bits = int(image.info.get("bit_depth", 8))
        if bits not in DEPTHS:
            raise refused(f"This is an HEIC with {bits} bits, and Sequor opens 8 and 10")
        width, height = image.size
        return Header(self.name, width, height, 1, bits)

    def decode(self, path: Path) -> Picture:
        return three_colours(_decoded(path))[0]

    def opacity(self, path: Path) -> Picture | None:
        return alpha_of(_decoded(path))

    def profile(self, path: Path) -> bytes | None:
        return usable(_opened(path).info.get("icc_profile"))

    def notices(self, path: Path) -> list[str]:
        from pi_heif import open_heif

        count = len(open_heif(path, convert_hdr_to_8bit=False))
        return [MANY.format(count)] if count > 1 else []


def _decoded(path: Path) -> Picture:
    image = _opened(path)
    try:
        # A copy: what the library gives out is its own and goes with it.
        return np.array(image)
    except Exception as error:
        raise damaged(error) from None


def _opened(path: Path) -> Any:
    from pi_heif import open_heif

    try:
        return open_heif(path, convert_hdr_to_8bit=False)
    except MemoryError:
        raise
    except Exception as error:
        raise damaged(error) from None
