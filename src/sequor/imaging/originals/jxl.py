"""JPEG XL (ISO/IEC 18181); the decoder gives no profile out, so its colours count as sRGB."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from sequor.core.raster.pixels import Picture
from sequor.imaging.originals.base import Header, OriginalKind, alpha_of, damaged, refused, three_colours

CONTAINER = b"\0\0\0\x0cJXL \r\n\x87\n"
CODESTREAM = b"\xff\x0a"


class JpegXl(OriginalKind):
    name = "jxl"
    called = "JPEG XL"

    def matches(self, path: Path, start: bytes) -> bool:
        return start[:12] == CONTAINER or start[:2] == CODESTREAM

    def header(self, path: Path) -> Header:
        pixels = _decoded(path)
        return Header(self.name, pixels.shape[1], pixels.shape[0], 1, 8 * pixels.dtype.itemsize)

    def decode(self, path: Path) -> Picture:
        return three_colours(_decoded(path))[0]

    def opacity(self, path: Path) -> Picture | None:
        return alpha_of(_decoded(path))

    def profile(self, path: Path) -> bytes | None:
        return None

    def notices(self, path: Path) -> list[str]:
        return ["The colours of a JPEG XL count as sRGB: its profile cannot be read here."]


def _decoded(path: Path) -> Picture:
    from imagecodecs import jpegxl_decode

    try:
        pixels = np.asarray(jpegxl_decode(path.read_bytes()))
    except Exception as error:
        raise damaged(error) from None
    if pixels.ndim == 4:
        pixels = pixels[0]
    if pixels.dtype not in (np.uint8, np.uint16):
        raise refused("This is a JPEG XL with floating-point values, which Sequor cannot open")
    return pixels
