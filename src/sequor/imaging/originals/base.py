"""What a kind of original is: how it is told from others, looked over and decoded."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass
from pathlib import Path
from typing import ClassVar

import numpy as np
from PIL import Image

from sequor.core.raster.pixels import Picture
from sequor.recipe.model.develop import DevelopPart

LARGEST_PIXELS = 200_000_000
LARGEST_SIDE = 65_500

TRANSPOSED = {5, 6, 7, 8}
"""EXIF orientations that swap width and height."""

BAND_ROWS = 256

START = 64
"""Bytes at the start of a file by which kinds are told."""

NOTHING_ADDED = "Nothing was added"

MANY = "This file holds {} pictures. The main one is used; the others are not carried over."
ONLY_RAW = "Only raw photos have a white balance and an exposure that can be set"
TRANSPARENT = "The photo has transparent areas. They become white in formats without transparency."


class UnreadablePictureError(ValueError):
    """A file that cannot be used; the message names the cause and the remedy."""


@dataclass(frozen=True)
class Header:
    """What a file says of itself before it is decoded; width and height after its orientation; ``bits``: how
    deep each colour is."""

    format: str
    width: int
    height: int
    orientation: int
    bits: int = 8


class OriginalKind(ABC):
    """One kind of file. ``name``: as a photo's row has it; ``called``: as people call it."""

    name: ClassVar[str]
    called: ClassVar[str]
    develops: ClassVar[bool] = False
    turn: ClassVar[int] = 0
    """Kinds are asked in turn, the lowest first: whoever is more particular comes before."""

    @abstractmethod
    def matches(self, path: Path, start: bytes) -> bool:
        """Whether a file is of this kind, by its first bytes or a short look."""

    @abstractmethod
    def header(self, path: Path) -> Header:
        """Look at a file without decoding its pixels. Raises UnreadablePictureError."""

    @abstractmethod
    def decode(self, path: Path) -> Picture:
        """The picture (height, width, 3), uint8 or uint16, upright, in the colours of ``profile``.

        Raises UnreadablePictureError.
        """

    def developed(self, path: Path, develop: DevelopPart) -> Picture:
        """The same, developed as is said: of kinds that hold what a sensor saw (``develops``)."""
        raise refused(ONLY_RAW)

    def as_shot(self, path: Path) -> tuple[float, float] | None:
        """The light that the camera made white: its temperature in kelvin and its tint (DevelopPart); None
        where that is not told."""
        return None

    def embedded(self, path: Path) -> Image.Image | None:
        """A small picture of it that the file holds, upright, for a look at once; None without one."""
        return None

    def opacity(self, path: Path) -> Picture | None:
        """How opaque each pixel is, (height, width) of either depth, upright; None: all of them are wholly.

        Raises UnreadablePictureError.
        """
        return None

    @abstractmethod
    def profile(self, path: Path) -> bytes | None:
        """The ICC profile that the decoded colours are in; None: sRGB."""

    def notices(self, path: Path) -> list[str]:
        """Sentences on what of the file is used otherwise than it stands there."""
        return []


def upright(pixels: Picture, orientation: int) -> Picture:
    """A picture turned as its file says (CIPA DC-008-2019, tag 0x0112: the place of row 0 and column 0).

    >>> upright(np.array([[[1], [2]], [[3], [4]]]), 6)[..., 0].tolist()
    [[3, 1], [4, 2]]
    """
    if orientation in (5, 6, 7, 8):
        pixels = pixels.swapaxes(0, 1)
    if orientation in (2, 3, 6, 7):
        pixels = pixels[:, ::-1]
    if orientation in (3, 4, 7, 8):
        pixels = pixels[::-1]
    return np.ascontiguousarray(pixels)


def three_colours(pixels: Picture) -> tuple[Picture, bool]:
    """Grey or colours, with or without alpha, (h, w) or (h, w, 1 to 4), as (h, w, 3); whether some of it was
    transparent, which is laid on white."""
    if pixels.ndim == 2:
        pixels = pixels[..., None]
    count = pixels.shape[2]
    colours = pixels[..., :1].repeat(3, axis=2) if count < 3 else pixels[..., :3]
    if count not in (2, 4):
        return np.ascontiguousarray(colours), False
    alpha = pixels[..., -1:]
    most = int(np.iinfo(pixels.dtype).max)
    if bool((alpha == most).all()):
        return np.ascontiguousarray(colours), False
    mixed = np.empty(colours.shape, pixels.dtype)
    # Band by band: a picture may have as many pixels as memory has room for.
    for top in range(0, len(mixed), BAND_ROWS):
        rows = np.s_[top : top + BAND_ROWS]
        share = alpha[rows].astype(np.float32) / most
        mixed[rows] = np.clip(colours[rows] * share + most * (1 - share) + 0.5, 0, most)
    return mixed, True


def alpha_of(pixels: Picture) -> Picture | None:
    """The last of two or four channels; None where there is none, or all of it is opaque."""
    if pixels.ndim != 3 or pixels.shape[2] not in (2, 4):
        return None
    alpha = pixels[..., -1]
    return None if bool((alpha == np.iinfo(pixels.dtype).max).all()) else np.ascontiguousarray(alpha)


def spread(values: Picture, bits: int) -> Picture:
    """Codes of 10 or 12 bits over 16, so that the highest stays the highest.

    >>> spread(np.array([0, 1023], np.uint16), 10).tolist()
    [0, 65535]
    """
    return np.asarray((values << (16 - bits)) | (values >> (2 * bits - 16)), np.uint16)


def damaged(error: Exception) -> UnreadablePictureError:
    """Data that cannot be decoded comes as many kinds of error, by decoder; this is what people are told."""
    if isinstance(error, MemoryError):
        return UnreadablePictureError(
            f"There is not enough memory to open this picture. {NOTHING_ADDED}; close other programs and try "
            "again"
        )
    return UnreadablePictureError(
        f"This file is incomplete or damaged. {NOTHING_ADDED}; copy it from the card again"
    )


def refused(
    what: str, remedy: str = "save a copy in another format and import that"
) -> UnreadablePictureError:
    """A file that is what it claims to be and cannot be used."""
    return UnreadablePictureError(f"{what}. {NOTHING_ADDED}; {remedy}")


def refuse_too_large(width: int, height: int) -> None:
    """Raise UnreadablePictureError for more pixels than are taken in, or none, before any is decoded."""
    if width < 1 or height < 1:
        raise damaged(ValueError("no pixels"))
    if width * height > LARGEST_PIXELS or max(width, height) > LARGEST_SIDE:
        raise refused(
            f"This picture has {width} × {height} pixels. The limit is {LARGEST_PIXELS // 1_000_000} "
            f"megapixels and {LARGEST_SIDE:,} pixels a side",
            "import a smaller copy",
        )
