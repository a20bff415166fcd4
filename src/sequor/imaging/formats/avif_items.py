"""A profile and metadata put into an AVIF: as a property of an item and as items (ISO/IEC 23008-12)."""

from __future__ import annotations

import struct
from collections.abc import Iterator

from sequor.imaging.blocks import Blocks
from sequor.imaging.originals.bmff import box

PLAIN_HEADER, FULL_HEADER = 8, 12


def with_items(coded: bytes, profile: bytes | None, blocks: Blocks) -> bytes:
    """The file with what is to go along. Raises ValueError for one that is not built as libavif does."""
    start, meta, rest = _parted(coded)
    added = [
        *([(b"Exif", b"", bytes(4) + blocks.exif)] if blocks.exif else []),
        *([(b"mime", b"application/rdf+xml\0", blocks.xmp)] if blocks.xmp else []),
    ]
    if profile is None and not added:
        return coded
    parts = dict(_boxes(meta[FULL_HEADER:]))
    if not {b"pitm", b"iloc", b"iinf", b"iprp"} <= parts.keys():
        raise ValueError("an AVIF without items")
    primary = struct.unpack(">H", parts[b"pitm"][4:6])[0]
    known = struct.unpack(">H", parts[b"iinf"][4:6])[0]
    names = range(known + 1, known + 1 + len(added))
    if profile is not None:
        parts[b"iprp"] = _with_profile(parts[b"iprp"], profile, primary)
    entries = b"".join(
        box(b"infe", struct.pack(">BxxxHH", 2, name, 0) + kind + b"\0" + of)
        for name, (kind, of, _) in zip(names, added, strict=True)
    )
    parts[b"iinf"] = parts[b"iinf"][:4] + struct.pack(">H", known + len(added)) + parts[b"iinf"][6:] + entries
    links = b"".join(box(b"cdsc", struct.pack(">HHH", name, 1, primary)) for name in names)
    parts[b"iref"] = (parts.get(b"iref") or bytes(4)) + links
    places, contents = parts[b"iloc"], [content for _, _, content in added]

    def whole(by: int, behind: int) -> bytes:
        parts[b"iloc"] = _moved(places, by, list(zip(names, contents, strict=True)), behind)
        return box(b"meta", meta[8:FULL_HEADER] + b"".join(box(kind, one) for kind, one in parts.items()))

    by = len(whole(0, 0)) - len(meta)
    behind = len(coded) + by + PLAIN_HEADER
    more = box(b"mdat", b"".join(contents)) if added else b""
    return start + whole(by, behind) + rest + more


def _boxes(content: bytes) -> Iterator[tuple[bytes, bytes]]:
    at = 0
    while at + PLAIN_HEADER <= len(content):
        length = int.from_bytes(content[at : at + 4], "big")
        if not PLAIN_HEADER <= length <= len(content) - at:
            raise ValueError("a box beyond the end")
        yield content[at + 4 : at + 8], content[at + PLAIN_HEADER : at + length]
        at += length


def _parted(coded: bytes) -> tuple[bytes, bytes, bytes]:
    """What stands before the box ``meta``, that box, and what follows it."""
    at = 0
    for kind, content in _boxes(coded):
        end = at + PLAIN_HEADER + len(content)
        if kind == b"meta":
            return coded[:at], coded[at:end], coded[end:]
        at = end
    raise ValueError("an AVIF without items")


def _with_profile(properties: bytes, profile: bytes, primary: int) -> bytes:
    """One more property, and the primary item told to have it."""
    parts = dict(_boxes(properties))
    listed = parts[b"ipco"]
    number = sum(1 for _ in _boxes(listed)) + 1
    of = parts[b"ipma"]
    if of[:4] != bytes(4) or number > 127:
        raise ValueError("properties of another kind")
    at, told = 8, of[:8]
    for _ in range(struct.unpack(">I", of[4:8])[0]):
        item, count = struct.unpack(">HB", of[at : at + 3])
        own = of[at + 3 : at + 3 + count]
        own += bytes([number]) if item == primary else b""
        told += struct.pack(">HB", item, len(own)) + own
        at += 3 + count
    return box(b"ipco", listed + box(b"colr", b"prof" + profile)) + box(b"ipma", told)


def _moved(places: bytes, by: int, added: list[tuple[int, bytes]], at: int) -> bytes:
    """Where the items lie, those that are there ``by`` bytes further on, the others in a row from ``at``."""
    if places[:6] != b"\0\0\0\0\x44\0":
        raise ValueError("places of another kind")
    count = struct.unpack(">H", places[6:8])[0]
    told, here = b"", 8
    for _ in range(count):
        item, source, extents = struct.unpack(">HHH", places[here : here + 6])
        told += struct.pack(">HHH", item, source, extents)
        here += 6
        for _ in range(extents):
            offset, length = struct.unpack(">II", places[here : here + 8])
            told += struct.pack(">II", offset + by, length)
            here += 8
    for name, content in added:
        told += struct.pack(">HHHII", name, 0, 1, at, len(content))
        at += len(content)
    return places[:6] + struct.pack(">H", count + len(added)) + told
