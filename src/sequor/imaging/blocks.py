"""The metadata of files as blocks: taken out of an original as they are, by its kind."""

from __future__ import annotations

import contextlib
import struct
import warnings
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PIL import Image

from sequor.imaging.exif import HEADER
from sequor.imaging.originals.base import UnreadablePictureError
from sequor.imaging.originals.pillow import opened
from sequor.imaging.originals.registry import kind_of

XMP_EXTENSION = b"http://ns.adobe.com/xmp/extension/\0"
PHOTOSHOP = b"Photoshop 3.0\0"
IPTC_RESOURCE = 0x0404
"""The image resource that holds IPTC-NAA records (IPTC IIM 4.2 in Adobe's image resource blocks)."""

DESCRIPTIVE = {0x010E, 0x010F, 0x0110, 0x0131, 0x0132, 0x013B, 0x8298, 0x011A, 0x011B, 0x0128, 0x0112}
"""Tags of a TIFF's own directory that describe the photo and not the file."""


@dataclass(frozen=True)
class Blocks:
    """What a file brings along: EXIF as a TIFF block, XMP as a packet, segments of JPEG that extend it, IPTC
    records, a comment. None or empty where it has none."""

    exif: bytes | None = None
    xmp: bytes | None = None
    extended: tuple[bytes, ...] = ()
    iptc: bytes | None = None
    comment: bytes | None = None


UNREADABLE = (UnreadablePictureError, OSError, ValueError, SyntaxError, struct.error, KeyError)


def blocks_of(path: Path) -> Blocks:
    """The blocks of a file; what cannot be looked into has none."""
    with contextlib.suppress(*UNREADABLE), warnings.catch_warnings():
        warnings.simplefilter("ignore")
        return _found(path)
    return Blocks()


def _found(path: Path) -> Blocks:
    kind = kind_of(path).name
    if kind in ("tiff", "raw"):
        return _of_tiff(path)
    if kind == "heic":
        from pi_heif import open_heif

        return _of_info(open_heif(path).info)
    if kind == "jxl":
        return _of_boxes(path)
    with opened(path) as image:
        found = _of_info(image.info)
    return _with_segments(path, found) if kind == "jpeg" else found


def _of_info(info: Any) -> Blocks:
    exif = info.get("exif") or None
    xmp = info.get("xmp") or info.get("XML:com.adobe.xmp") or None
    comment = info.get("comment")
    return Blocks(
        exif=None if exif is None else bytes(exif).removeprefix(HEADER),
        xmp=xmp.encode() if isinstance(xmp, str) else xmp,
        comment=comment if isinstance(comment, bytes) else None,
    )


def _with_segments(path: Path, found: Blocks) -> Blocks:
    """What stands in segments that Pillow does not give out (T.81, B.1.1.4)."""
    extended, iptc = [], b""
    for marker, segment in segments(path):
        if marker == 0xE1 and segment.startswith(XMP_EXTENSION):
            extended.append(segment)
        elif marker == 0xED and segment.startswith(PHOTOSHOP):
            iptc += _iptc_in(segment[len(PHOTOSHOP) :])
    return Blocks(found.exif, found.xmp, tuple(extended), iptc or None, found.comment)


def segments(path: Path) -> list[tuple[int, bytes]]:
    """The segments of a JPEG before its pixels: marker and content."""
    found: list[tuple[int, bytes]] = []
    with path.open("rb") as file:
        file.seek(2)
        while True:
            start = file.read(4)
            if len(start) < 4 or start[0] != 0xFF or start[1] == 0xDA:
                return found
            found.append((start[1], file.read(max(0, int.from_bytes(start[2:], "big") - 2))))


def _iptc_in(resources: bytes) -> bytes:
    """The IPTC records among image resources: each has a type, a number, a name and data, all even."""
    at = 0
    while at + 12 <= len(resources) and resources[at : at + 4] == b"8BIM":
        number = int.from_bytes(resources[at + 4 : at + 6], "big")
        name = 1 + resources[at + 6]
        start = at + 6 + name + name % 2
        length = int.from_bytes(resources[start : start + 4], "big")
        if number == IPTC_RESOURCE:
            return resources[start + 4 : start + 4 + length]
        at = start + 4 + length + length % 2
    return b""


def iptc_segment(iptc: bytes) -> bytes:
    """IPTC records as the content of a segment of JPEG."""
    return (
        PHOTOSHOP + b"8BIM" + struct.pack(">HHI", IPTC_RESOURCE, 0, len(iptc)) + iptc + bytes(len(iptc) % 2)
    )


def _of_tiff(path: Path) -> Blocks:
    """A TIFF is its own EXIF: the tags that describe the photo, as a block of their own."""
    exif = Image.Exif()
    with path.open("rb") as file:
        exif.load_from_fp(file)
        xmp, iptc = exif.get(700), exif.get(33723)
        details, place = dict(exif.get_ifd(0x8769)), dict(exif.get_ifd(0x8825))
    own = Image.Exif()
    for tag in DESCRIPTIVE & set(exif):
        own[tag] = exif[tag]
    own.get_ifd(0x8769).update(details)
    if place:
        own.get_ifd(0x8825).update(place)
    return Blocks(
        exif=own.tobytes().removeprefix(HEADER) if len(own) or details else None,
        xmp=bytes(xmp) if isinstance(xmp, bytes) else None,
        iptc=bytes(iptc) if isinstance(iptc, bytes) else None,
    )


def _of_boxes(path: Path) -> Blocks:
    """The boxes of a JPEG XL (ISO/IEC 18181-2): Exif behind four bytes of offset, and xml."""
    exif = xmp = None
    end = path.stat().st_size
    with path.open("rb") as file:
        at = 0
        while at + 8 <= end:
            file.seek(at)
            start = file.read(8)
            length, kind = int.from_bytes(start[:4], "big"), start[4:]
            if length < 8:
                break
            if kind == b"Exif":
                exif = file.read(length - 8)[4:]
            elif kind == b"xml ":
                xmp = file.read(length - 8)
            at += length
    return Blocks(exif, xmp)
