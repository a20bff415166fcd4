"""What a format is: how a picture is written in it, and what of the original it can carry over."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, ClassVar

from sequor.imaging.blocks import Blocks
from sequor.imaging.exif import HEADER
from sequor.imaging.rows import Rows
from sequor.recipe.model.export import CARRIES, Format

LONGEST_SEGMENT = 65_533
"""Bytes in a segment of a JPEG besides its length (ITU-T T.81, B.1.1.4)."""


@dataclass(frozen=True)
class Manner:
    """How a file is written: ``quality`` 1 to 100, ``subsampling`` of colours, ``progressive``: of a JPEG,
    ``compression``: of a TIFF; ``ppi`` for its density; the profile of its colours, None for sRGB; the
    metadata that go along."""

    quality: int = 95
    subsampling: str = "444"
    progressive: bool = False
    compression: str = "deflate"
    ppi: float | None = None
    profile: bytes | None = None
    blocks: Blocks = field(default_factory=Blocks)


class ExportFormat(ABC):
    """One format; what it is called in recipes is its ``name``."""

    name: ClassVar[Format]
    bytes_per_megapixel: ClassVar[int]
    """A generous guess of the size of a file, to see beforehand whether the disk has room."""
    carries_iptc: ClassVar[bool] = False

    @property
    def ending(self) -> str:
        """The usual ending of a file's name, with its dot."""
        return CARRIES[self.name].endings[0]

    def bytes_of(self, pixels: int) -> int:
        """Room to keep for a file of so many pixels."""
        return int(pixels / 1e6 * self.bytes_per_megapixel)

    @abstractmethod
    def write(self, rows: Rows, path: Path, manner: Manner) -> None:
        """Write a picture of a depth that the format has, with alpha only where it has that. Raises
        ValueError and struct.error for metadata that do not fit."""


def blocks_for_pillow(manner: Manner) -> dict[str, Any]:
    """The options under which Pillow takes EXIF, XMP and profile."""
    found: dict[str, Any] = {"icc_profile": manner.profile}
    if manner.blocks.exif is not None:
        found["exif"] = HEADER + manner.blocks.exif
    if manner.blocks.xmp is not None:
        found["xmp"] = manner.blocks.xmp
    return found
