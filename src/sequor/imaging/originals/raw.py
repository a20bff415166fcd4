"""Raw files of cameras, and DNG (Adobe, 1.6): the camera's white balance, nothing brightened."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from sequor.core.raster.pixels import Picture
from sequor.imaging.originals.base import Header, OriginalKind, damaged
from sequor.imaging.originals.bmff import brands
from sequor.imaging.originals.tiff import MAGIC

SRGB_CURVE = (2.4, 12.92)
"""The exponent and the slope at the foot of the sRGB curve (IEC 61966-2-1), as LibRaw asks for them."""

STARTS = (b"FUJIFILMCCD-RAW", b"IIRO", b"IIRS", b"MMOR", b"IIU\0")

SIDEWAYS = {5, 6}
"""What LibRaw says of a picture that is turned by 90 degrees."""

DNG_VERSION, CFA, LINEAR_RAW = 50706, 32803, 34892


class Raw(OriginalKind):
    name = "raw"
    called = "raw photo"

    def matches(self, path: Path, start: bytes) -> bool:
        if any(start.startswith(one) for one in STARTS) or b"crx " in brands(start):
            return True
        if start[:4] not in MAGIC:
            return False
        return start[8:10] == b"CR" or _holds_sensor_values(path)

    def header(self, path: Path) -> Header:
        with _opened(path) as raw:
            sizes = raw.sizes
            width, height = int(sizes.width), int(sizes.height)
            if sizes.flip in SIDEWAYS:
                width, height = height, width
            return Header(self.name, "RGB", width, height, 1, 16)

    def decode(self, path: Path) -> Picture:
        import rawpy

        with _opened(path) as raw:
            try:
                pixels = raw.postprocess(
                    use_camera_wb=True,
                    no_auto_bright=True,
                    output_bps=16,
                    gamma=SRGB_CURVE,
                    output_color=rawpy.ColorSpace.sRGB,
                )
            except Exception as error:
                raise damaged(error) from None
            return np.ascontiguousarray(pixels)

    def profile(self, path: Path) -> bytes | None:
        return None


def _opened(path: Path) -> Any:
    import rawpy

    try:
        return rawpy.imread(str(path))
    except Exception as error:
        raise damaged(error) from None


def _holds_sensor_values(path: Path) -> bool:
    """Whether a TIFF is one of a camera's raw files, by its tags."""
    from tifffile import TiffFile

    try:
        with TiffFile(path) as file:
            first: Any = file.pages[0]
            pages = [first, *(getattr(first, "pages", None) or [])]
            return DNG_VERSION in first.tags or any(
                int(page.photometric) in (CFA, LINEAR_RAW) for page in pages if hasattr(page, "photometric")
            )
    except Exception:  # what cannot be looked into is told by the kind that takes it
        return False
