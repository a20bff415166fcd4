"""EXIF made true without being written anew (CIPA DC-008-2019; TIFF 6.0): its block keeps every byte and
offset but the values that have changed.

MakerNotes keep their place, so that what they point to stays right. What is not there and must be is added by
a copy of its directory at the end of the block."""

from __future__ import annotations

import struct
from dataclasses import dataclass

from sequor.imaging.carrying import Marked, Through, carried_area

ORIENTATION, X_RESOLUTION, Y_RESOLUTION, RESOLUTION_UNIT = 0x0112, 0x011A, 0x011B, 0x0128
IMAGE_WIDTH, IMAGE_LENGTH = 0x0100, 0x0101
PIXEL_X, PIXEL_Y = 0xA002, 0xA003
SMALL_AT, SMALL_LENGTH = 0x0201, 0x0202
EXIF_POINTER, GPS_POINTER = 0x8769, 0x8825
SUBJECT_AREA, SUBJECT_LOCATION, MAKER_NOTE = 0x9214, 0xA214, 0x927C
ELEVATION = 0x9405
"""CameraElevationAngle: of a corrected picture no longer true."""
SERIALS = (0xA430, 0xA431, 0xA435, 0xC62F)
"""CameraOwnerName, BodySerialNumber, LensSerialNumber; CameraSerialNumber of DNG."""

SHORT, LONG, RATIONAL = 3, 4, 5
SIZES = {1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8, 13: 4}
"""Bytes of a value by its type (TIFF 6.0, section 2; 13 is IFD)."""

MOST_ENTRIES = 1000
HEADER = b"Exif\0\0"


class DamagedExifError(ValueError):
    """A block that cannot be gone by."""


@dataclass(frozen=True)
class Directory:
    """The places of the entries of a directory by their tags, and of the pointer behind them."""

    entries: dict[int, int]
    following: int


class ExifBlock:
    """An EXIF block: a TIFF without pixels. Raises DamagedExifError."""

    def __init__(self, block: bytes) -> None:
        self.data = bytearray(block.removeprefix(HEADER))
        order = {b"II": "<", b"MM": ">"}.get(bytes(self.data[:2]))
        if order is None or len(self.data) < 8:
            raise DamagedExifError("no TIFF header")
        self.order = order
        if self._number("H", 2) != 42:
            raise DamagedExifError("no TIFF header")
        self.directory(4)

    def _number(self, kind: str, at: int) -> int:
        try:
            value: int = struct.unpack_from(self.order + kind, self.data, at)[0]
        except struct.error:
            raise DamagedExifError("beyond the end") from None
        return value

    def _write(self, kind: str, at: int, value: int) -> None:
        struct.pack_into(self.order + kind, self.data, at, value)

    def directory(self, pointer: int) -> Directory:
        """The directory that the number at ``pointer`` points to."""
        at = self._number("I", pointer)
        count = self._number("H", at)
        following = at + 2 + 12 * count
        if count > MOST_ENTRIES or following + 4 > len(self.data):
            raise DamagedExifError("a directory beyond the end")
        places = range(at + 2, following, 12)
        return Directory({self._number("H", place): place for place in places}, following)

    def pointer(self, tag: int) -> int | None:
        """Where the pointer to a directory inside the first one stands."""
        entry = self.directory(4).entries.get(tag)
        return None if entry is None else entry + 8

    def value(self, entry: int) -> tuple[int, int]:
        """Where the value of an entry lies, and its length in bytes."""
        length = SIZES.get(self._number("H", entry + 2), 1) * self._number("I", entry + 4)
        at = entry + 8 if length <= 4 else self._number("I", entry + 8)
        if at + length > len(self.data):
            raise DamagedExifError("a value beyond the end")
        return at, length

    def set_number(self, pointer: int, tag: int, value: int, add: bool = True) -> None:
        """Set a whole number in the directory at ``pointer``; ``add``: also where it is not there yet."""
        entry = self.directory(pointer).entries.get(tag)
        if entry is None:
            if add:
                self._add(pointer, tag, SHORT if tag in (ORIENTATION, RESOLUTION_UNIT) else LONG, value)
            return
        if self._number("H", entry + 2) == SHORT and value < 65536:
            self._write("I", entry + 4, 1)
            self._write("H", entry + 8, value)
            return
        self._write("H", entry + 2, LONG)
        self._write("I", entry + 4, 1)
        self._write("I", entry + 8, value)

    def set_fraction(self, pointer: int, tag: int, top: int, bottom: int) -> None:
        """Set a fraction; its eight bytes go to the end of the block."""
        at = self._end()
        self.data += struct.pack(self.order + "II", top, bottom)
        entry = self.directory(pointer).entries.get(tag)
        if entry is None:
            self._add(pointer, tag, RATIONAL, at)
            return
        self._write("H", entry + 2, RATIONAL)
        self._write("I", entry + 4, 1)
        self._write("I", entry + 8, at)

    def remove(self, pointer: int, tag: int) -> None:
        """Take an entry away, its value wiped."""
        found = self.directory(pointer)
        entry = found.entries.get(tag)
        if entry is None:
            return
        at, length = self.value(entry)
        self.data[at : at + length] = bytes(length)
        start = self._number("I", pointer)
        self.data[entry : found.following - 8] = self.data[entry + 12 : found.following + 4]
        self._write("H", start, len(found.entries) - 1)

    def remove_place(self) -> None:
        """Take the place away, every byte of it wiped."""
        pointer = self.pointer(GPS_POINTER)
        if pointer is None:
            return
        for tag in list(self.directory(pointer).entries):
            self.remove(pointer, tag)
        self.remove(4, GPS_POINTER)

    def carry_subject(self, through: Through, width: int, height: int) -> None:
        """Where the subject lies (SubjectArea: a point, a circle or a box; SubjectLocation: a point) in the
        corrected picture of this size; taken away where it is not shown."""
        for tag in (SUBJECT_AREA, SUBJECT_LOCATION):
            details = self.pointer(EXIF_POINTER)
            entry = None if details is None else self.directory(details).entries.get(tag)
            if details is None or entry is None:
                continue
            at, length = self.value(entry)
            numbers = [self._number("H", place) for place in range(at, at + length - 1, 2)]
            if self._number("H", entry + 2) != SHORT or not 2 <= len(numbers) <= 4:
                self.remove(details, tag)
                continue
            size = {2: (0, 0), 3: (numbers[-1], numbers[-1]), 4: tuple(numbers[2:])}[len(numbers)]
            found = carried_area(Marked(numbers[0], numbers[1], *size), through, width, height)
            if found is None:
                self.remove(details, tag)
                continue
            changed = [found.x, found.y, *((max(found.width, found.height),) if len(numbers) == 3 else ())]
            changed += [found.width, found.height] if len(numbers) == 4 else []
            for place, value in zip(range(at, at + length - 1, 2), changed, strict=True):
                self._write("H", place, min(65535, round(value)))

    def renew_small_picture(self, jpeg: bytes | None) -> None:
        """Put another small picture, a JPEG, in the place of the one that shows the photo as taken; where
        that was none, or with nothing, its directory is unhooked."""
        following = self.directory(4).following
        if not self._number("I", following):
            return
        try:
            entries = self.directory(following).entries
        except DamagedExifError:
            entries = {}
        if jpeg is None or not {SMALL_AT, SMALL_LENGTH} <= entries.keys():
            self._write("I", following, 0)
            return
        old, length = self._number("I", entries[SMALL_AT] + 8), self._number("I", entries[SMALL_LENGTH] + 8)
        if old + length > len(self.data):
            self._write("I", following, 0)
            return
        self.data[old : old + length] = bytes(length)
        if len(jpeg) <= length:
            self.data[old : old + len(jpeg)] = jpeg
        else:
            old = self._end()
            self.data += jpeg
        self.set_number(following, SMALL_AT, old)
        self.set_number(following, SMALL_LENGTH, len(jpeg))
        self.set_number(following, ORIENTATION, 1, add=False)
        for tag in (IMAGE_WIDTH, IMAGE_LENGTH, PIXEL_X, PIXEL_Y):
            self.remove(following, tag)

    def _end(self) -> int:
        self.data += bytes(len(self.data) % 2)
        return len(self.data)

    def _add(self, pointer: int, tag: int, kind: int, value: int) -> None:
        found = self.directory(pointer)
        entries = [bytes(self.data[place : place + 12]) for place in sorted(found.entries.values())]
        new = struct.pack(
            self.order + ("HHIHH" if kind == SHORT else "HHII"), tag, kind, 1, value, *([0] * (kind == SHORT))
        )
        entries = sorted([*entries, new], key=lambda one: struct.unpack(self.order + "H", one[:2])[0])
        following = bytes(self.data[found.following : found.following + 4])
        end = self._end()
        self.data += struct.pack(self.order + "H", len(entries)) + b"".join(entries) + following
        self._write("I", pointer, end)


@dataclass(frozen=True)
class Carrying:
    """What is to be true of the metadata: the size in pixels, and how the original's pixels got there;
    ``ppi`` of the print, else the original's resolution stays; ``new``: the share of the pixels that no
    camera took, ``painted``: whether an outside painter made some of them; ``place``, ``serials``: whether
    these go along; ``small``: a small JPEG of the picture; ``recipe``: what was done, as JSON."""

    width: int
    height: int
    through: Through | None = None
    stored: tuple[int, int] = (0, 0)
    ppi: float | None = None
    new: float = 0.0
    painted: bool = False
    place: bool = True
    serials: bool = True
    small: bytes | None = None
    recipe: bytes | None = None


def made_true(block: bytes, wanted: Carrying) -> bytes:
    """An EXIF block for what is wanted, its pixels upright. MakerNotes, which may hold serial numbers, go
    with these. Raises DamagedExifError."""
    exif = ExifBlock(block)
    width, height, ppi = wanted.width, wanted.height, wanted.ppi
    exif.set_number(4, ORIENTATION, 1)
    for tag, size in ((IMAGE_WIDTH, width), (IMAGE_LENGTH, height)):
        exif.set_number(4, tag, size, add=False)
    if ppi is not None:
        for tag in (X_RESOLUTION, Y_RESOLUTION):
            exif.set_fraction(4, tag, round(100 * ppi), 100)
        exif.set_number(4, RESOLUTION_UNIT, 2)
    if not wanted.place:
        exif.remove_place()
    details = exif.pointer(EXIF_POINTER)
    if details is not None:
        for tag, size in ((PIXEL_X, width), (PIXEL_Y, height)):
            exif.set_number(details, tag, size)
            details = exif.pointer(EXIF_POINTER) or details
        gone = () if wanted.serials else (*SERIALS, MAKER_NOTE)
        for tag in (ELEVATION, *(() if wanted.through else (SUBJECT_AREA, SUBJECT_LOCATION)), *gone):
            exif.remove(details, tag)
    if wanted.through is not None:
        exif.carry_subject(wanted.through, width, height)
    if not wanted.serials:
        for tag in SERIALS:
            exif.remove(4, tag)
    exif.renew_small_picture(wanted.small)
    return bytes(exif.data)
