"""The formats that there are."""

from __future__ import annotations

from sequor.core.discover import named
from sequor.imaging.formats.base import ExportFormat
from sequor.recipe.model.export import CARRIES, Format

FORMATS: dict[Format, ExportFormat] = named("sequor.imaging.formats", ExportFormat)  # type: ignore[type-abstract]


def format_of(ending: str) -> Format | None:
    """The format that the ending of a file's name means, its dot included; None for another.

    >>> format_of(".JPG"), format_of(".bmp")
    ('jpeg', None)
    """
    return next((name for name, one in CARRIES.items() if ending.lower() in one.endings), None)


def endings_words() -> str:
    """All endings, for a sentence.

    >>> endings_words()
    '.jpg, .jpeg, .png, .tif, .tiff, .webp, .avif or .jxl'
    """
    *most, last = [ending for one in CARRIES.values() for ending in one.endings]
    return f"{', '.join(most)} or {last}"
