"""Picture files to arrays, with limits that are set before anything is decoded."""

from __future__ import annotations

import mmap
import warnings
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image, ImageOps

from sequor.core.raster.pixels import Picture

from .colour import colour_space, grey_to_srgb, usable

LARGEST_PIXELS = 100_000_000
LARGEST_SIDE = 32_000
LARGEST_BYTES = 400_000_000

MOST_SCANS = 100
"""Scans of a JPEG: ten are usual in a progressive one."""
MOST_CHUNKS = 60_000
"""Chunks of a PNG: 8 KB each is usual, of which the largest file has 50,000."""

# Our own limit below is the stricter one and words its refusal itself.
Image.MAX_IMAGE_PIXELS = None

FORMATS = {"JPEG": "jpeg", "MPO": "jpeg", "PNG": "png"}
MODES = {"RGB", "L", "P", "1", "LA", "PA", "RGBA"}
GREY = {"L", "LA", "1"}
TRANSPOSED = {5, 6, 7, 8}
"""EXIF orientations that swap width and height."""


class UnreadablePictureError(ValueError):
    """A file that cannot be used; the message names the cause and the remedy."""


@dataclass(frozen=True)
class Header:
    """What a file says of itself before it is decoded; width and height after its orientation."""

    format: str
    mode: str
    width: int
    height: int
    orientation: int


def read_header(path: Path) -> Header:
    """Look at a file without decoding its pixels. Raises UnreadablePictureError."""
    if path.stat().st_size == 0:
        raise UnreadablePictureError("This file is empty. Nothing was added; copy it from the card again")
    if path.stat().st_size > LARGEST_BYTES:
        raise UnreadablePictureError(
            f"This file is larger than {LARGEST_BYTES // 1_000_000} MB. "
            "Nothing was added; save a smaller copy and "
            "import that"
        )
    _refuse_slow(path)
    with _open(path) as image:
        return _header(image, path)


def _refuse_slow(path: Path) -> None:
    """Raise UnreadablePictureError for a file that is made to take minutes: repeated scans, many chunks."""
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as content:
        png = content[:8] == b"\x89PNG\r\n\x1a\n"
        count = _chunks(content) if png else content[:2] == b"\xff\xd8" and _count(content, b"\xff\xda")
    if count > (MOST_CHUNKS if png else MOST_SCANS):
        what = f"more than {MOST_CHUNKS} pieces" if png else f"more than {MOST_SCANS} scans"
        raise UnreadablePictureError(
            f"This file has {what}, which no camera writes. Nothing was "
            "added; save a copy with another program "
            "and import that"
        )


def _count(content: mmap.mmap, what: bytes) -> int:
    """How often some bytes occur; beyond what matters it is not counted on."""
    at, count = content.find(what), 0
    while at >= 0 and count <= MOST_SCANS:
        at, count = content.find(what, at + 2), count + 1
    return count


def _chunks(content: mmap.mmap) -> int:
    """The chunks of a PNG (3rd ed., 5.3: length, type, data, check sum)."""
    at, count = 8, 0
    while at + 12 <= len(content) and count <= MOST_CHUNKS:
        at, count = at + 12 + int.from_bytes(content[at : at + 4], "big"), count + 1
    return count


def decode(path: Path, quarter_turns: int = 0) -> Picture:
    """The picture (height, width, 3) uint8 in the file's own colours, turned as recorded and then by hand.

    Grey and palette pictures become RGB; transparency is laid on white. ``quarter_turns`` counts
    clockwise. Raises UnreadablePictureError.
    """
    with _open(path) as image:
        header = _header(image, path)
        try:
            image.load()
        except Exception as error:  # damaged data comes as many kinds of error, by decoder
            raise UnreadablePictureError(_broken(error)) from None
        upright = ImageOps.exif_transpose(image) if header.orientation != 1 else image
        pixels = np.asarray(_to_rgb(upright))
    return np.ascontiguousarray(np.rot90(pixels, -quarter_turns)) if quarter_turns else pixels


def colour_profile(path: Path) -> bytes | None:
    """The ICC profile that the decoded colours are in; None: sRGB.

    A grey profile has been applied by then; one that is damaged or for other colours counts for nothing.
    """
    with _open(path) as image:
        return usable(_profile(image))


def profile_notice(path: Path) -> str | None:
    """What became of a profile in the file that does not go with the decoded colours; None: it does."""
    with _open(path) as image:
        profile = _profile(image)
        if profile is None or usable(profile):
            return None
        kind = colour_space(profile)
        if kind == "GRAY" and image.mode in GREY:
            return "The photo's grey profile was applied. The exported file is in sRGB."
    if kind in (None, "RGB", "GRAY"):
        return "The colour profile in the photo's file is damaged or does not fit. The photo counts as sRGB."
    return f"The colour profile in the photo's file is for {kind} pictures. The photo counts as sRGB."


def _profile(image: Image.Image) -> bytes | None:
    profile: Any = image.info.get("icc_profile")
    return bytes(profile) if profile else None


def _open(path: Path) -> Image.Image:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            return Image.open(path)
    except Exception:  # a damaged header comes as many kinds of error
        raise UnreadablePictureError(
            "This file cannot be read as a picture. Nothing was added; Sequor opens JPEG and 8-bit PNG files"
        ) from None


def _header(image: Image.Image, path: Path) -> Header:
    name = FORMATS.get(image.format or "")
    if name is None:
        raise UnreadablePictureError(
            f"Sequor cannot open {image.format} files yet. Nothing was "
            "added; save a JPEG or 8-bit PNG copy and "
            "import that"
        )
    width, height = image.size
    if width * height > LARGEST_PIXELS or max(width, height) > LARGEST_SIDE:
        raise UnreadablePictureError(
            f"This picture has {width} × {height} pixels. The limit is "
            f"{LARGEST_PIXELS // 1_000_000} megapixels and "
            f"{LARGEST_SIDE} pixels a side. Nothing was added; import a smaller copy"
        )
    if image.mode in ("CMYK", "YCCK"):
        raise UnreadablePictureError(
            "Sequor cannot open CMYK pictures yet. Nothing was added; save an RGB copy and import that"
        )
    if image.mode not in MODES or (name == "png" and _png_bit_depth(path) == 16):
        raise UnreadablePictureError(
            "Sequor cannot open 16-bit pictures yet. Nothing was added; save an 8-bit copy and import that"
        )
    orientation = _orientation(image)
    if orientation in TRANSPOSED:
        width, height = height, width
    return Header(name, image.mode, width, height, orientation)


def _orientation(image: Image.Image) -> int:
    try:
        value = image.getexif().get(0x0112, 1)
    except Exception:  # broken EXIF comes as many kinds of error and is no reason to refuse the picture
        return 1
    return int(value) if isinstance(value, int) and 1 <= value <= 8 else 1


def _png_bit_depth(path: Path) -> int:
    # Pillow reduces 16-bit RGB to 8 bit without a word; the depth stands at byte 24 (PNG, 3rd ed., 11.2.1).
    with path.open("rb") as file:
        start = file.read(25)
    return start[24] if len(start) == 25 else 0


def _to_rgb(image: Image.Image) -> Image.Image:
    profile = _profile(image)
    if profile is not None and image.mode in GREY and colour_space(profile) == "GRAY":
        on_white = image if image.mode == "L" else _on_white(image).convert("L")
        in_srgb = grey_to_srgb(on_white, profile)
        if in_srgb is not None:
            return in_srgb
    return _on_white(image)


def _on_white(image: Image.Image) -> Image.Image:
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        rgba = image.convert("RGBA")
        white = Image.new("RGBA", rgba.size, (255, 255, 255, 255))
        return Image.alpha_composite(white, rgba).convert("RGB")
    return image if image.mode == "RGB" else image.convert("RGB")


def _broken(error: Exception) -> str:
    if isinstance(error, MemoryError):
        return (
            "There is not enough memory to open this picture. Nothing "
            "was added; close other programs and try "
            "again"
        )
    return "This file is incomplete or damaged. Nothing was added; copy it from the card again"
