"""Originals of many kinds, written by libraries that the program does not read them with."""

from __future__ import annotations

import io
import struct
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
import pillow_heif
import tifffile
from numpy.typing import NDArray
from PIL import Image

Deep = NDArray[np.uint16]


def deep_picture(width: int, height: int) -> Deep:
    """A ramp in 16 bits whose codes no picture of 8 bits can hold."""
    x, y = np.meshgrid(np.linspace(0, 1, width), np.linspace(0, 1, height))
    return np.asarray(np.stack([x, y, (x + y) / 2], axis=-1) * 65535, np.uint16)


def tiff_bytes(values: NDArray[Any], **options: Any) -> bytes:
    """A TIFF by tifffile."""
    buffer = io.BytesIO()
    tifffile.imwrite(buffer, values, **options)
    return buffer.getvalue()


def heic_bytes(values: NDArray[Any], **options: Any) -> bytes:
    """An HEIC by libheif with x265, of 8 or of 10 bits."""
    mode = "RGB;16" if values.dtype == np.uint16 else "RGB"
    size = (values.shape[1], values.shape[0])
    file = pillow_heif.from_bytes(mode, size, values.tobytes())
    buffer = io.BytesIO()
    file.save(buffer, quality=-1, chroma=444, **options)
    return buffer.getvalue()


def cmyk_jpeg(size: tuple[int, int], inks: tuple[int, int, int, int], adobe: bool, **options: Any) -> bytes:
    """A JPEG of one colour in inks (255: all of it), turned round as Adobe does, or plain."""
    picture = np.full((size[1], size[0], 4), inks, np.uint8)
    if adobe:
        buffer = io.BytesIO()
        Image.fromarray(picture, "CMYK").save(buffer, "JPEG", quality=100, subsampling=0, **options)
        return buffer.getvalue()
    coded = bytes(imagecodecs.jpeg8_encode(picture, level=100, colorspace="CMYK", outcolorspace="CMYK"))
    # Without Adobe's marker (APP14) nobody has turned the inks round.
    at = coded.index(b"\xff\xee")
    return coded[:at] + coded[at + 2 + int.from_bytes(coded[at + 2 : at + 4], "big") :]


def dng_bytes(
    linear: NDArray[np.float64],
    balance: tuple[float, float, float] = (2.0, 1.0, 1.5),
    preview: NDArray[np.uint8] | None = None,
) -> bytes:
    """A DNG (Adobe, 1.4) with known linear values (h, w, 3), 0 to 1, under a sensor of the pattern RGGB; its colour
    matrix is that of XYZ to linear sRGB (IEC 61966-2-1). ``preview``: a small JPEG of it in the first directory, as
    cameras write it; the sensor's values lie in one below."""
    height, width = linear.shape[:2]
    black, white = 512, 16000
    mosaic = np.empty((height, width))
    for (down, across), colour in {(0, 0): 0, (0, 1): 1, (1, 0): 1, (1, 1): 2}.items():
        mosaic[down::2, across::2] = linear[down::2, across::2, colour] / balance[colour]
    sensor = np.asarray(black + mosaic * (white - black) + 0.5, np.uint16)
    to_linear = SRGB_OF_XYZ / np.array(balance)[:, None]

    def rationals(values: Any) -> tuple[int, ...]:
        return tuple(part for value in np.ravel(values) for part in (round(float(value) * 10_000), 10_000))

    extra = [
        (271, "s", 0, "Invented Optics", True),
        (272, "s", 0, "IO-1", True),
        (33421, "H", 2, (2, 2), True),
        (33422, "B", 4, b"\x00\x01\x01\x02", True),
        (50706, "B", 4, b"\x01\x04\x00\x00", True),
        (50707, "B", 4, b"\x01\x01\x00\x00", True),
        (50708, "s", 0, "Invented Optics IO-1", True),
        (50714, "H", 1, (black,), True),
        (50717, "H", 1, (white,), True),
        (50721, "2i", 9, rationals(to_linear), True),
        (50728, "2I", 3, rationals([1 / one for one in balance]), True),
        (50778, "H", 1, (21,), True),
    ]
    if preview is None:
        return tiff_bytes(sensor, photometric=32803, extratags=extra, metadata=None)
    below = [one for one in extra if one[0] in (33421, 33422, 50714, 50717)]
    buffer = io.BytesIO()
    with tifffile.TiffWriter(buffer) as file:
        first: Any = {
            "subifds": 1,
            "subfiletype": 1,
            "compression": "jpeg",
            "metadata": None,
            "rowsperstrip": len(preview),
        }
        file.write(preview, photometric="rgb", extratags=[one for one in extra if one not in below], **first)
        file.write(sensor, photometric=32803, subfiletype=0, extratags=below, metadata=None)
    return buffer.getvalue()


SRGB_OF_XYZ = np.array([[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]])
"""Linear sRGB from CIE XYZ (IEC 61966-2-1)."""


def smooth_raw(grey_under: tuple[float, float]) -> bytes:
    """A DNG of a grey card under a light of this chromaticity, taken for daylight."""
    x, y = grey_under
    seen = SRGB_OF_XYZ @ np.array([x / y, 1, (1 - x - y) / y])
    return dng_bytes(np.full((64, 96, 3), 0.2 * seen))


def written(folder: Path, content: bytes) -> Path:
    """A file without an ending, as originals are kept."""
    path = folder / "file"
    path.write_bytes(content)
    return path


def gamma_png(values: NDArray[np.uint8], gamma: int, cicp: bytes | None = None) -> bytes:
    """A PNG that says its colours by gAMA or cICP."""
    buffer = io.BytesIO()
    Image.fromarray(values).save(buffer, "PNG")
    plain = buffer.getvalue()

    def chunk(kind: bytes, data: bytes) -> bytes:
        import zlib

        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    more = chunk(b"gAMA", struct.pack(">I", gamma)) if cicp is None else chunk(b"cICP", cicp)
    return plain[:33] + more + plain[33:]
