"""Angles in words: people are told "the right side was 1.2° too low", never a sign.

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
        return side_words(reading.slope_deg, "right end", "left end", "lower", "runs level", decimals)
    return side_words(reading.lean_deg, "leans right", "leans left", "", "stands upright", decimals)


def side_words(value: float, positive: str, negative: str, what: str, zero: str, decimals: int) -> str:
    """A signed angle as words: ``positive`` or ``negative`` with the size, or ``zero``."""
    if abs(value) < max(UNNOTICED_DEG, 0.5 * 10**-decimals):
        return zero
    return f"{positive if value > 0 else negative} {degrees(value, decimals)} {what}".strip()
