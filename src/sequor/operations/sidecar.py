"""Where a recipe lies that is kept beside its photo."""

from __future__ import annotations

from pathlib import Path

ENDING = ".sequor.json"


def sidecar_of(photo: Path) -> Path:
    """Where the recipe of a photo lies that is kept beside it.

    >>> sidecar_of(Path("card/IMG_2041.JPG")).name
    'IMG_2041.sequor.json'
    """
    return photo.with_name(f"{photo.stem}{ENDING}")
