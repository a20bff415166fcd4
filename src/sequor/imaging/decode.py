"""Picture files to arrays, with limits that are set before anything is decoded."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from sequor.core.raster.pixels import Picture
from sequor.imaging.originals.base import (
    LARGEST_PIXELS,
    Header,
    OriginalKind,
    UnreadablePictureError,
    damaged,
    refuse_too_large,
    refused,
)
from sequor.imaging.originals.registry import kind_of
from sequor.recipe.model.develop import DevelopPart

LARGEST_BYTES = 1_250_000_000

__all__ = [
    "LARGEST_BYTES",
    "LARGEST_PIXELS",
    "Header",
    "UnreadablePictureError",
    "as_shot",
    "can_be_developed",
    "colour_profile",
    "decode",
    "embedded",
    "notices",
    "opacity",
    "read_header",
]


def read_header(path: Path) -> Header:
    """Look at a file without decoding its pixels. Raises UnreadablePictureError."""
    return _looked_over(path)[1]


def _looked_over(path: Path) -> tuple[OriginalKind, Header]:
    """The kind of a file and what it says of itself. Raises UnreadablePictureError."""
    size = path.stat().st_size
    if size == 0:
        raise UnreadablePictureError("This file is empty. Nothing was added; copy it from the card again")
    if size > LARGEST_BYTES:
        raise refused(
            f"This file is larger than {LARGEST_BYTES // 1_000_000} MB", "save a smaller copy and import that"
        )
    kind = kind_of(path)
    header = kind.header(path)
    refuse_too_large(header.width, header.height)
    return kind, header


def decode(path: Path, quarter_turns: int = 0, develop: DevelopPart | None = None) -> Picture:
    """The picture (height, width, 3), uint8 or uint16 as deep as its file is, in the colours of
    ``colour_profile``, turned as recorded and then by hand.

    Grey and palette pictures become RGB, inks too; transparency is laid on white. ``quarter_turns`` counts
    clockwise; ``develop``: of a raw photo. Raises UnreadablePictureError.
    """
    kind, header = _looked_over(path)
    pixels = kind.decode(path) if develop is None else kind.developed(path, develop)
    if pixels.shape != (header.height, header.width, 3):
        # Whoever decodes goes by what a damaged file says elsewhere.
        raise damaged(ValueError("another size than the file says"))
    return np.ascontiguousarray(np.rot90(pixels, -quarter_turns)) if quarter_turns else pixels


def opacity(path: Path, quarter_turns: int = 0) -> Picture | None:
    """How opaque each pixel of the picture is (height, width), of either depth; None where all are wholly.

    Raises UnreadablePictureError.
    """
    found = kind_of(path).opacity(path)
    return None if found is None else np.ascontiguousarray(np.rot90(found, -quarter_turns))


def colour_profile(path: Path) -> bytes | None:
    """The ICC profile that the decoded colours are in; None: sRGB.

    A grey profile has been applied by then; one that is damaged or for other colours counts for nothing.
    """
    return kind_of(path).profile(path)


def can_be_developed(path: Path) -> bool:
    """Whether a file holds what a sensor saw. Raises UnreadablePictureError."""
    return kind_of(path).develops


def as_shot(path: Path) -> tuple[float, float] | None:
    """The light that a raw photo's camera made white, as a temperature in kelvin and a tint; None where that
    is not told."""
    return kind_of(path).as_shot(path)


def embedded(path: Path) -> Picture | None:
    """The small picture that a raw photo holds of itself, upright, uint8; None without one."""
    image = kind_of(path).embedded(path)
    return None if image is None else np.array(image)


def notices(path: Path) -> list[str]:
    """Sentences on what of a file is used otherwise than it stands there."""
    return kind_of(path).notices(path)
