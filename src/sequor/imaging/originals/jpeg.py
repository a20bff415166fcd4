"""JPEG (ITU-T T.81), of every kind of colour, in 8 and 12 bits."""

from __future__ import annotations

import mmap
from pathlib import Path

import numpy as np
from PIL import Image, ImageChops

from sequor.core.raster.pixels import Picture
from sequor.imaging.originals.base import Header, damaged, refused, spread, three_colours
from sequor.imaging.originals.pillow import INKS, PillowKind

MOST_SCANS = 100
"""Scans: ten are usual in a progressive file."""

SCAN = b"\xff\xda"
FRAMES = {0xC0, 0xC1, 0xC2, 0xC3, 0xC9, 0xCA}
"""Markers of a frame (ITU-T T.81, table B.1)."""


class Jpeg(PillowKind):
    name = "jpeg"
    called = "JPEG"

    def matches(self, path: Path, start: bytes) -> bool:
        return start[:2] == b"\xff\xd8"

    def header(self, path: Path) -> Header:
        _refuse_slow(path)
        deep = _twelve_bits(path)
        if deep is not None:
            return Header(self.name, *deep, 1, bits=12)
        return super().header(path)

    def decode(self, path: Path) -> Picture:
        if _twelve_bits(path) is None:
            return super().decode(path)
        from imagecodecs import jpeg_decode  # heavy, and needed for few files

        try:
            twelve = np.asarray(jpeg_decode(path.read_bytes()), np.uint16)
        except Exception as error:
            raise damaged(error) from None
        return three_colours(spread(twelve, 12))[0]

    def opacity(self, path: Path) -> Picture | None:
        return None

    def profile(self, path: Path) -> bytes | None:
        return None if _twelve_bits(path) else super().profile(path)

    def notices(self, path: Path) -> list[str]:
        return [] if _twelve_bits(path) else super().notices(path)

    def _rgb(self, image: Image.Image) -> Image.Image:
        if image.mode in INKS and "adobe" not in image.info:
            # Pillow turns the inks round as Adobe writes them, also where nobody says that Adobe did.
            image = ImageChops.invert(image)
        return super()._rgb(image)


def _refuse_slow(path: Path) -> None:
    """Raise UnreadablePictureError for a file that is made to take minutes: repeated scans."""
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as content:
        at, count = content.find(SCAN), 0
        while at >= 0 and count <= MOST_SCANS:
            at, count = content.find(SCAN, at + 2), count + 1
    if count > MOST_SCANS:
        raise refused(
            f"This file has more than {MOST_SCANS} scans, which no camera writes",
            "save a copy with another program and import that",
        )


def _twelve_bits(path: Path) -> tuple[int, int] | None:
    """Width and height where the samples have 12 bits; None for the usual 8 (T.81, B.2.2: the byte behind the
    length of the frame's header)."""
    with path.open("rb") as file:
        start = file.read(1 << 20)
    at = 2
    while at + 9 < len(start) and start[at] == 0xFF:
        marker, length = start[at + 1], int.from_bytes(start[at + 2 : at + 4], "big")
        if marker in FRAMES:
            high, wide = (int.from_bytes(start[place : place + 2], "big") for place in (at + 5, at + 7))
            return (wide, high) if start[at + 4] == 12 else None
        at += 2 + length
    return None
