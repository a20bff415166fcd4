"""Files of boxes (ISO/IEC 14496-12): what they say they are, and a box of one."""

from __future__ import annotations

import struct


def brands(start: bytes) -> set[bytes]:
    """The brands of a file by its first box, ``ftyp``; empty for what has none."""
    if start[4:8] != b"ftyp":
        return set()
    end = min(int.from_bytes(start[:4], "big"), len(start))
    return {start[8:12], *(start[at : at + 4] for at in range(16, end - 3, 4))}


def box(kind: bytes, content: bytes) -> bytes:
    """A box (4.2: its length, its kind, what is in it)."""
    return struct.pack(">I", len(content) + 8) + kind + content
