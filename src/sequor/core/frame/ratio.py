"""Ratios width : height as they are written: numbers, the square root of two and the golden section."""

from __future__ import annotations

import math
import re

GOLDEN = (1 + math.sqrt(5)) / 2
"""The whole to the greater part as the greater to the lesser (Euclid, *Elements* VI, definition 3)."""

NAMED = {"sqrt2": math.sqrt(2), "golden": GOLDEN}
"""ISO 216 sheets are 1 : sqrt2."""


MOST = 50
_NUMBER = r"(?:[0-9]{1,6}(?:\.[0-9]{1,6})?|sqrt2|golden)"
_WRITTEN = re.compile(rf"{_NUMBER}:{_NUMBER}")


def parse_ratio(text: str) -> tuple[float, float]:
    """Width and height of a ratio such as "3:2", "13.6:9.9" or "sqrt2:1".

    Raises ValueError when it is not one.

    >>> parse_ratio("13.6:9.9"), parse_ratio("1:golden")
    ((13.6, 9.9), (1.0, 1.618033988749895))
    """
    if not _WRITTEN.fullmatch(text):
        raise ValueError("a ratio is original, free, or W:H such as 3:2, 13.6:9.9 or sqrt2:1")
    width, height = (NAMED[part] if part in NAMED else float(part) for part in text.split(":"))
    if min(width, height) == 0 or max(width / height, height / width) > MOST:
        raise ValueError(f"a ratio is between 1:{MOST} and {MOST}:1")
    return width, height


def typed_ratio(text: str) -> str:
    """A ratio as people type it, written as the recipe writes it. Raises ValueError when it is not one.

    >>> typed_ratio("13.6 x 9.9"), typed_ratio("13,6×9,9 cm"), typed_ratio("3/2"), typed_ratio("1.85")
    ('13.6:9.9', '13.6:9.9', '3:2', '1.85:1')
    """
    plain = re.sub(r"\s*(mm|cm|in|px|″|\")(?=\W|$)", " ", text.strip().lower()).replace(",", ".")
    parts = [part.strip() for part in re.split(r"[:x×/*]", plain)]
    written = ":".join(parts if len(parts) > 1 else [*parts, "1"])
    if not _WRITTEN.fullmatch(written):
        raise ValueError(
            f"“{text.strip()}” is not an aspect ratio. Type width and height, for example 3:2 or 13.6 × 9.9"
        )
    parse_ratio(written)
    return written


def agrees_with_ratio(width: int, height: int, ratio: tuple[float, float]) -> bool:
    """Whether whole pixels are the ratio as near as rounding either side lets them be."""
    return abs(width * ratio[1] - height * ratio[0]) <= max(ratio)
