"""What a format is: how a picture is written in it, and what of the original it can carry over."""

from __future__ import annotations

from abc import ABC, abstractmethod
from pathlib import Path
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from sequor.core.raster.pixels import Picture
from sequor.recipe.model.export import CARRIES, Format


class ExportFormat(ABC):
    """One format; what it is called in recipes is its ``name``."""

    name: ClassVar[Format]
    bytes_per_megapixel: ClassVar[int]
    """A generous guess of the size of a file, to see beforehand whether the disk has room."""
    keeps_comment: ClassVar[bool] = False
    """Whether its metadata have room for the comment of a JPEG."""

    @property
    def ending(self) -> str:
        """The usual ending of a file's name, with its dot."""
        return CARRIES[self.name].endings[0]

    def bytes_of(self, pixels: int) -> int:
        """Room to keep for a file of so many pixels."""
        return int(pixels / 1e6 * self.bytes_per_megapixel)

    def write(
        self,
        picture: Picture,
        path: Path,
        quality: int,
        profile: bytes | None = None,
        ppi: float | None = None,
        clear: NDArray[np.bool_] | None = None,
    ) -> None:
        """Write a (height, width, 3) picture.

        Where ``clear`` (height, width) is set, it is transparent. ``ppi`` goes into the file's density.
        """
        image = Image.fromarray(picture)
        if clear is not None:
            image.putalpha(Image.fromarray(np.where(clear, 0, 255).astype(np.uint8)))
        options: dict[str, Any] = {} if ppi is None else {"dpi": (ppi, ppi)}
        self._save(image, path, quality, {**options, "icc_profile": profile})

    @abstractmethod
    def _save(self, image: Image.Image, path: Path, quality: int, options: dict[str, Any]) -> None:
        """Encode an image; ``options`` are Pillow's that all formats have."""
