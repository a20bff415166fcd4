"""The kinds that there are, and which of them a file is."""

from __future__ import annotations

from pathlib import Path

from sequor.core.discover import named
from sequor.imaging.originals.base import START, OriginalKind, refused

KINDS: dict[str, OriginalKind] = named("sequor.imaging.originals", OriginalKind)  # type: ignore[type-abstract]

OTHERS = {
    b"GIF8": "GIF",
    b"BM": "BMP",
    b"8BPS": "layered picture",
    b"%PDF": "PDF",
    b"qoif": "QOI",
    b"<svg": "drawing",
    b"\x00\x00\x01\x00": "icon",
}
"""Files that are no photos, by how they begin and what people call them."""


def kind_of(path: Path) -> OriginalKind:
    """The kind of a file. Raises UnreadablePictureError."""
    with path.open("rb") as file:
        start = file.read(START)
    for kind in sorted(KINDS.values(), key=lambda one: one.turn):
        if kind.matches(path, start):
            return kind
    for begins, called in OTHERS.items():
        if start.startswith(begins):
            raise refused(f"This is a {called} file, and Sequor opens photos only")
    raise refused(f"This file cannot be read as a picture: it is none of {kinds_words()}")


def kinds_words() -> str:
    """All kinds, for a sentence.

    >>> kinds_words().split(", ")[0]
    'AVIF'
    """
    return ", ".join(sorted(kind.called for kind in KINDS.values()))
