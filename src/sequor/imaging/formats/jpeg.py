"""JPEG (ITU-T T.81): in strips, each a restart interval, so that several are coded at once and none has to
wait for the picture as a whole."""

from __future__ import annotations

import struct
from collections import deque
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from sequor.core.raster.pixels import Picture
from sequor.imaging.blocks import iptc_segment
from sequor.imaging.exif import HEADER
from sequor.imaging.formats.base import LONGEST_SEGMENT, ExportFormat, Manner
from sequor.imaging.rows import Rows
from sequor.imaging.threads import threads

STRIP_ROWS = 64
"""Rows of a restart interval: whole blocks, also where colours are halved."""
STRIPS_AHEAD = 8

SOI, EOI = b"\xff\xd8", b"\xff\xd9"
APP0, APP1, APP2, APP13, COM, SOF0, SOS, DRI = 0xE0, 0xE1, 0xE2, 0xED, 0xFE, 0xC0, 0xDA, 0xDD
XMP_HEADER = b"http://ns.adobe.com/xap/1.0/\0"
PROFILE_HEADER = b"ICC_PROFILE\0"
BLOCK_WIDTH = {"444": 8, "420": 16}


class Jpeg(ExportFormat):
    name = "jpeg"
    bytes_per_megapixel = 1_500_000
    carries_iptc = True

    def write(self, rows: Rows, path: Path, manner: Manner) -> None:
        extra = b"".join(_segment(marker, content) for marker, content in _further(manner))
        density = round(manner.ppi or 0)
        unit = bool(density), density or 1
        jfif = _segment(APP0, b"JFIF\0" + struct.pack(">BBBHHBB", 1, 1, unit[0], unit[1], unit[1], 0, 0))
        if manner.progressive:
            options = {"progressive": True, "subsampling": {"444": 0, "420": 2}[manner.subsampling]}
            Image.fromarray(rows.whole()).save(path, "JPEG", quality=manner.quality, **options)
            coded = path.read_bytes()
            # What Pillow writes begins with a JFIF segment of its own.
            start = 4 + int.from_bytes(coded[4:6], "big")
            path.write_bytes(SOI + jfif + extra + coded[start:])
            return
        with path.open("wb") as file:
            file.write(SOI + jfif + extra)
            for at, coded in enumerate(_strips(rows, manner)):
                head, scan = _parts(coded)
                restart = bytes([0xFF, 0xD0 + (at - 1) % 8])
                file.write(restart if at else _head_of_all(head, rows, manner))
                file.write(scan.removesuffix(EOI))
            file.write(EOI)


def _further(manner: Manner) -> Iterator[tuple[int, bytes]]:
    """The segments that tell of the picture. Raises ValueError for one that is longer than a segment can
    be."""
    blocks = manner.blocks
    if blocks.exif is not None:
        yield APP1, HEADER + blocks.exif
    if blocks.xmp is not None:
        yield APP1, XMP_HEADER + blocks.xmp
    for one in blocks.extended:
        yield APP1, one
    if manner.profile is not None:
        # In numbered parts (ICC.1:2022, B.4).
        room = LONGEST_SEGMENT - len(PROFILE_HEADER) - 2
        parts = [manner.profile[at : at + room] for at in range(0, len(manner.profile), room)]
        for number, part in enumerate(parts, 1):
            yield APP2, PROFILE_HEADER + bytes([number, len(parts)]) + part
    if blocks.iptc:
        yield APP13, iptc_segment(blocks.iptc)
    if blocks.comment:
        yield COM, blocks.comment


def _segment(marker: int, content: bytes) -> bytes:
    if len(content) > LONGEST_SEGMENT:
        raise ValueError("a segment that is too long")
    return bytes([0xFF, marker]) + struct.pack(">H", len(content) + 2) + content


def _strips(rows: Rows, manner: Manner) -> Iterator[bytes]:
    """The strips, each coded as a JPEG of its own, a few ahead of who writes them."""
    from imagecodecs import jpeg8_encode  # heavy, and not needed before something is written

    def code(strip: Picture) -> bytes:
        plain = np.ascontiguousarray(strip)
        return bytes(jpeg8_encode(plain, level=manner.quality, subsampling=manner.subsampling))

    with ThreadPoolExecutor(threads()) as pool:
        ahead: deque[Any] = deque()
        for band in rows.bands():
            for top in range(0, len(band), STRIP_ROWS):
                ahead.append(pool.submit(code, band[top : top + STRIP_ROWS]))
            while len(ahead) > STRIPS_AHEAD:
                yield ahead.popleft().result()
        while ahead:
            yield ahead.popleft().result()


def _parts(coded: bytes) -> tuple[list[tuple[int, bytes]], bytes]:
    """The segments of a JPEG before its pixels, and these (B.1.1.4)."""
    at = len(SOI)
    found: list[tuple[int, bytes]] = []
    while not found or found[-1][0] != SOS:
        length = int.from_bytes(coded[at + 2 : at + 4], "big")
        found.append((coded[at + 1], coded[at + 4 : at + 2 + length]))
        at += 2 + length
    return found, coded[at:]


def _head_of_all(head: list[tuple[int, bytes]], rows: Rows, manner: Manner) -> bytes:
    """What stands before the pixels: as of the first strip, but of the height of all, and how many blocks a
    strip has."""
    told = b""
    for marker, content in head:
        if marker == APP0:
            continue
        if marker == SOS:
            wide = BLOCK_WIDTH[manner.subsampling]
            told += _segment(DRI, struct.pack(">H", -(-rows.width // wide) * (STRIP_ROWS // wide)))
        high = struct.pack(">H", rows.height)
        told += _segment(marker, content[:1] + high + content[3:] if marker == SOF0 else content)
    return told
