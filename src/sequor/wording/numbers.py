"""Angles in words: people are told "drops 1.2° to the left", never a sign.

The ± is the 95 % half-width and the decimals follow it.
"""

from __future__ import annotations

import math

from sequor.core.estimation.least_squares import HALF_WIDTH_95
from sequor.core.references.line import Reading

UNNOTICED_DEG = 0.005
"""Under half of the last decimal that is shown, an angle is called exactly level."""


def decimals_for(half_width: float | None) -> int:
    """How many decimals an angle deserves: the half-width keeps one figure, between 1 and 3 decimals.

    >>> decimals_for(0.04), decimals_for(0.3), decimals_for(None)
    (2, 1, 2)
    """
    if half_width is None or half_width <= 0:
        return 2
    return min(3, max(1, -math.floor(math.log10(half_width))))


def degrees(value: float, decimals: int = 2) -> str:
    """An angle without its sign."""
    return f"{abs(value):.{decimals}f}°"


def plus_minus(sd: float) -> str:
    """The 95 % half-width of a standard deviation in degrees."""
    half = HALF_WIDTH_95 * sd
    return f"± {half:.{decimals_for(half)}f}°"


def slope_words(reading: Reading) -> str:
    """How a line stands as taken, in words."""
    half = HALF_WIDTH_95 * reading.sd_deg
    decimals = decimals_for(half)
    if abs(reading.slope_deg) <= 45:
        return drops_words(reading.slope_deg, decimals)
    return leans_words(reading.lean_deg, decimals)


def drops_words(slope: float, decimals: int) -> str:
    """A slope in words, to the side of its lower end.

    >>> drops_words(-2.334, 2), drops_words(0.001, 2)
    ('drops 2.33° to the left', 'level')
    """
    if unnoticed(slope, decimals):
        return "level"
    return f"drops {degrees(slope, decimals)} {to_the(slope > 0)}"


def leans_words(lean: float, decimals: int) -> str:
    """A lean in words, to the side of the upper end."""
    if unnoticed(lean, decimals):
        return "vertical"
    return f"leans {degrees(lean, decimals)} {to_the(lean > 0)}"


def unnoticed(value: float, decimals: int) -> bool:
    """Whether an angle is nothing with so many decimals."""
    return bool(abs(value) < max(UNNOTICED_DEG, 0.5 * 10**-decimals))


def to_the(right: bool) -> str:
    """A side in words."""
    return f"to the {'right' if right else 'left'}"
