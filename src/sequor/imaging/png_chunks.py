"""Chunks put into a PNG that a plain encoder has written (W3C Recommendation, third edition, 5.3)."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Sequence

AFTER_HEADER = 33
"""The signature, and the header with its 13 bytes."""


def with_chunks(png: bytes, chunks: Sequence[bytes]) -> bytes:
    """The file with these chunks behind its header."""
    return b"".join([png[:AFTER_HEADER], *chunks, png[AFTER_HEADER:]])


def chunk(kind: bytes, data: bytes) -> bytes:
    """A chunk: length, type, data, check sum."""
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def profile_chunk(profile: bytes) -> bytes:
    """A colour profile (11.3.2.3: iCCP)."""
    return chunk(b"iCCP", b"ICC profile\0\0" + zlib.compress(profile))


def text_chunk(keyword: str, text: str) -> bytes:
    """International text (11.3.3.4: iTXt), not compressed."""
    return chunk(b"iTXt", keyword.encode("latin-1") + b"\0\0\0\0\0" + text.encode())


def density_chunk(ppi: float) -> bytes:
    """Pixels a metre (11.3.4.3: pHYs)."""
    each = round(ppi / 0.0254)
    return chunk(b"pHYs", struct.pack(">IIB", each, each, 1))
