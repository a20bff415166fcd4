"""How far a correction may go, and what Sequor has found by itself, in words."""

from __future__ import annotations

from typing import Literal

from sequor.core.estimation.unknowns import Unknown

Extent = Literal["tilt", "walls", "square-on"]

EXTENTS: dict[Extent, tuple[Unknown, ...]] = {
    "tilt": ("roll",),
    "walls": ("roll", "pitch"),
    "square-on": ("roll", "pitch", "yaw"),
}
"""How far a correction may go, and the angles that it takes out then."""

EXTENT_NAMES: dict[Extent, str] = {
    "tilt": "Tilt only",
    "walls": "Verticals too",
    "square-on": "Square-on",
}

SURE, LIKELY = 0.9, 0.5
"""From which confidence on it is called so."""


def confidence_words(confidence: float) -> str:
    """How sure an angle is, in a word.

    >>> confidence_words(0.97), confidence_words(0.7), confidence_words(0.2)
    ('sure', 'likely', 'unsure')
    """
    return "sure" if confidence >= SURE else "likely" if confidence >= LIKELY else "unsure"


def counted(lines: int) -> str:
    """So many lines.

    >>> counted(1), counted(12)
    ('1 line', '12 lines')
    """
    return "1 line" if lines == 1 else f"{lines} lines"
