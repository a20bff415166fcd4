"""TIFF (revision 6.0), of 8 and 16 bits, without loss."""

from __future__ import annotations

import struct
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sequor.imaging.exif import EXIF_POINTER, GPS_POINTER, DamagedExifError, ExifBlock
from sequor.imaging.formats.base import ExportFormat, Manner
from sequor.imaging.rows import Rows

COMPRESSION: dict[str, dict[str, Any]] = {
    "none": {},
    "lzw": {"compression": "lzw", "predictor": True},
    "deflate": {"compression": "zlib", "predictor": True},
}

TILE = 256

XMP_TAG, IPTC_TAG = 700, 33723
BYTE, UNDEFINED, IFD = 1, 7, 4

DESCRIPTIVE = (0x010E, 0x010F, 0x0110, 0x0131, 0x0132, 0x013B, 0x8298)
"""ImageDescription, Make, Model, Software, DateTime, Artist, Copyright: texts of the first directory."""


class Tiff(ExportFormat):
    name = "tiff"
    bytes_per_megapixel = 8_200_000
    carries_iptc = True

    def write(self, rows: Rows, path: Path, manner: Manner) -> None:
        from tifffile import imwrite  # heavy, and needed by few

        blocks = manner.blocks
        extra: list[Any] = []
        if blocks.xmp:
            extra.append((XMP_TAG, BYTE, len(blocks.xmp), blocks.xmp, True))
        if blocks.iptc:
            extra.append((IPTC_TAG, UNDEFINED, len(blocks.iptc), blocks.iptc, True))
        options: dict[str, Any] = {} if not rows.alpha else {"extrasamples": ["unassalpha"]}
        if manner.ppi is not None:
            options |= {"resolution": (manner.ppi, manner.ppi), "resolutionunit": "INCH"}
        imwrite(
            path,
            _tiles(rows),
            shape=(rows.height, rows.width, 4 if rows.alpha else 3),
            dtype=np.uint16 if rows.deep else np.uint8,
            tile=(TILE, TILE),
            photometric="rgb",
            **COMPRESSION[manner.compression],
            byteorder="<",
            iccprofile=manner.profile,
            software=False,
            metadata=None,
            extratags=extra,
            **options,
        )
        if blocks.exif:
            _attach(path, blocks.exif)


def _tiles(rows: Rows) -> Iterator[NDArray[np.generic]]:
    """The picture in squares, row by row, the last ones filled up (TIFF 6.0, section 15)."""
    for band in rows.bands(TILE):
        for left in range(0, rows.width, TILE):
            part = band[:, left : left + TILE]
            if part.shape[:2] == (TILE, TILE):
                yield np.ascontiguousarray(part)
            else:
                more = [(0, TILE - part.shape[0]), (0, TILE - part.shape[1]), (0, 0)]
                yield np.pad(part, more, mode="edge")


def _attach(path: Path, block: bytes) -> None:
    """Put the EXIF of a block into a TIFF: its directories at the end, and pointers to them in a copy of the
    first directory (TIFF 6.0: a directory may lie anywhere)."""
    exif = ExifBlock(block)
    with path.open("r+b") as file:
        start = file.read(8)
        if start[:4] != b"II*\0":
            raise DamagedExifError("no plain TIFF")
        first = struct.unpack("<I", start[4:])[0]
        file.seek(first)
        count = struct.unpack("<H", file.read(2))[0]
        entries = [file.read(12) for _ in range(count)]
        following = file.read(4)
        known = {struct.unpack("<H", one[:2])[0] for one in entries}
        file.seek(0, 2)
        for tag, place in exif.directory(4).entries.items():
            if tag in DESCRIPTIVE and tag not in known:
                entries.append(_entry(exif, tag, place, file))
        for tag in (EXIF_POINTER, GPS_POINTER):
            pointer = exif.pointer(tag)
            if pointer is not None and tag not in known:
                at = _directory(exif, pointer, file)
                entries.append(struct.pack("<HHII", tag, IFD, 1, at))
        _even(file)
        end = file.tell()
        entries.sort(key=lambda one: struct.unpack("<H", one[:2])[0])
        file.write(struct.pack("<H", len(entries)) + b"".join(entries) + following)
        file.seek(4)
        file.write(struct.pack("<I", end))


def _directory(exif: ExifBlock, pointer: int, file: Any) -> int:
    """Write a directory of a block at the end of a file; where it lies. Pointers in it are not followed."""
    found = [
        _entry(exif, tag, place, file)
        for tag, place in sorted(exif.directory(pointer).entries.items())
        if tag != 0xA005
    ]
    _even(file)
    at: int = file.tell()
    file.write(struct.pack("<H", len(found)) + b"".join(found) + bytes(4))
    return at


def _entry(exif: ExifBlock, tag: int, place: int, file: Any) -> bytes:
    """An entry of a block, its value written to the end of a file in that one's order of bytes."""
    kind, many = struct.unpack_from(exif.order + "HI", exif.data, place + 2)
    at, length = exif.value(place)
    value = bytes(exif.data[at : at + length])
    unit = {3: 2, 4: 4, 5: 4, 8: 2, 9: 4, 10: 4, 11: 4, 12: 8, 13: 4}.get(kind, 1)
    if exif.order == ">" and unit > 1:
        value = np.frombuffer(value, f">u{unit}").astype(f"<u{unit}").tobytes()
    if length <= 4:
        return struct.pack("<HHI", tag, kind, many) + value.ljust(4, b"\0")
    _even(file)
    where: int = file.tell()
    file.write(value)
    return struct.pack("<HHII", tag, kind, many, where)


def _even(file: Any) -> None:
    if file.tell() % 2:
        file.write(b"\0")
