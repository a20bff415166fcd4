"""Raw files of cameras, and DNG (Adobe, 1.6): the camera's white balance, nothing brightened."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from sequor.core.raster.pixels import Picture
from sequor.imaging.originals.base import (
    Header,
    OriginalKind,
    UnreadablePictureError,
    damaged,
    refused,
)
from sequor.imaging.originals.bmff import brands
from sequor.imaging.originals.tiff import MAGIC
from sequor.imaging.white import light, light_of, multipliers, temperature_of
from sequor.recipe.model.develop import DevelopPart

SRGB_CURVE = (2.4, 12.92)
"""The exponent and the slope at the foot of the sRGB curve (IEC 61966-2-1), as LibRaw asks for them."""

STARTS = (b"FUJIFILMCCD-RAW", b"IIRO", b"IIRS", b"MMOR", b"IIU\0")

DAYLIGHT = 5500.0, 0.0
"""The light that is gone by where a file does not tell which it was."""

SRGB_OF_XYZ = np.array([[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]])
"""Linear sRGB from CIE XYZ (IEC 61966-2-1)."""

SIDEWAYS = {5, 6}
"""What LibRaw says of a picture that is turned by 90 degrees."""

TURNED = {3: 180, 5: 90, 6: 270}
"""Degrees anticlockwise that make a picture upright, by what LibRaw says of it."""

DNG_VERSION, CFA, LINEAR_RAW = 50706, 32803, 34892


class Raw(OriginalKind):
    name = "raw"
    called = "raw photo"
    develops = True

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
            return Header(self.name, width, height, 1, 16)

    def decode(self, path: Path) -> Picture:
        return self.developed(path, DevelopPart())

    def developed(self, path: Path, develop: DevelopPart) -> Picture:
        import rawpy

        with _opened(path) as raw:
            try:
                white = _white(raw, develop)
                pixels = raw.postprocess(
                    use_camera_wb=white is None,
                    user_wb=white,
                    bright=2**develop.exposure,
                    no_auto_bright=True,
                    output_bps=16,
                    gamma=SRGB_CURVE,
                    output_color=rawpy.ColorSpace.sRGB,
                )
            except UnreadablePictureError:
                raise
            except Exception as error:
                raise damaged(error) from None
            return np.ascontiguousarray(pixels)

    def embedded(self, path: Path) -> Image.Image | None:
        import rawpy

        with _opened(path) as raw:
            turned = TURNED.get(raw.sizes.flip, 0)
            try:
                thumb = raw.extract_thumb()
                if thumb.format == rawpy.ThumbFormat.JPEG:
                    image = Image.open(io.BytesIO(thumb.data)).convert("RGB")
                else:
                    image = Image.fromarray(thumb.data)
            except Exception:  # there is none, or none that can be read: the picture itself is on its way
                return None
            return image.rotate(turned, expand=True)

    def as_shot(self, path: Path) -> tuple[float, float] | None:
        with _opened(path) as raw:
            return _as_shot(raw)

    def profile(self, path: Path) -> bytes | None:
        return None


def _as_shot(raw: Any) -> tuple[float, float] | None:
    matrix, by = _sensor(raw), np.array(raw.camera_whitebalance[:3], float)
    if matrix is None or not np.all(by > 0):
        return None
    return temperature_of(light_of(matrix, by))


def _sensor(raw: Any) -> NDArray[np.float64] | None:
    """The matrix from CIE XYZ to the sensor's colours; None for a camera of which none is known.

    LibRaw tells it in two parts, of cameras that it knows and of DNGs alike: to linear sRGB after daylight
    has been made white.
    """
    to_srgb, daylight = np.asarray(raw.color_matrix, float), np.asarray(raw.daylight_whitebalance[:3], float)
    plain = to_srgb[:, :3]
    if raw.num_colors != 3 or abs(np.linalg.det(plain)) < 1e-6 or not np.all(daylight > 0):
        return None
    return np.asarray(np.linalg.inv(plain * daylight) @ SRGB_OF_XYZ)


def _white(raw: Any, develop: DevelopPart) -> list[float] | None:
    """What the sensor's colours are multiplied by; None: as the camera did."""
    if develop.temperature is None and develop.tint is None:
        return None
    matrix, shot = _sensor(raw), _as_shot(raw) or DAYLIGHT
    if matrix is None:
        raise refused("Nothing is known of this camera's colours, so no temperature can be set")
    wanted = light(
        shot[0] if develop.temperature is None else develop.temperature,
        shot[1] if develop.tint is None else develop.tint,
    )
    red, green, blue = multipliers(matrix, wanted)
    return [float(red), float(green), float(blue), float(green)]


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
