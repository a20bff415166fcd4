"""A frame on paper: the resolution it is printed at, and what a printer that fills the sheet cuts off.

Lengths in millimetres. A printer that trims prints the picture so large that it reaches ``trim`` beyond the
printed area on every side, and cuts off what is over.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from sequor.core.rectangle import Rectangle

Unit = Literal["mm", "cm", "in"]

MM_PER: dict[Unit, float] = {"mm": 1.0, "cm": 10.0, "in": 25.4}
"""The inch is 25.4 mm exactly (international yard and pound agreement, 1959)."""

USUAL_PPI = 300.0
"""Pixels per inch that a print seen at reading distance usually has (common practice, no source)."""

COARSE_PPI = 180.0
"""Below this it shows (common practice, no source)."""

A0_MM = (841, 1189)


def iso_a(number: int) -> tuple[int, int]:
    """Width and height in millimetres of the upright ISO 216 sheet A0, A1, A2 …

    Each is the one before it cut in two across its long side, rounded down to a millimetre (ISO 216:2007).

    >>> iso_a(4), iso_a(2)
    ((210, 297), (420, 594))
    """
    width, height = A0_MM
    for _ in range(number):
        width, height = height // 2, width
    return width, height


@dataclass(frozen=True)
class Sheet:
    """A sheet of paper in millimetres: the whole, the white border and what is trimmed, on every side."""

    width: float
    height: float
    border: float = 0.0
    trim: float = 0.0

    @property
    def area(self) -> tuple[float, float]:
        """Width and height of what is printed on."""
        return self.width - 2 * self.border, self.height - 2 * self.border

    def lying_like(self, width: float, height: float) -> Sheet:
        """The sheet, turned so that it is upright or lying like a picture of this size."""
        if (width > height) == (self.width > self.height) or width == height:
            return self
        return Sheet(self.height, self.width, self.border, self.trim)


@dataclass(frozen=True)
class Printed:
    """A frame on a sheet. ``ppi``: effective pixels per inch; ``shown``: what is left of the frame, in pixels
    from its top left corner; ``cut``: the share of the frame that is lost."""

    sheet: Sheet
    ppi: float
    shown: Rectangle
    cut: float

    def pixels(self, ppi: float) -> tuple[int, int]:
        """Whole pixels of the frame when the print has just ``ppi``; a side that is not cut: the sheet's."""
        scale = ppi / self.ppi
        sides = []
        for shown, over, area in zip(
            (self.shown.width, self.shown.height), (self.shown.x, self.shown.y), self.sheet.area, strict=True
        ):
            frame, sheet = (shown + 2 * over) * scale, (area + 2 * self.sheet.trim) / 25.4 * ppi
            # A frame agrees with a ratio to one of its pixels: within that it is meant to be the sheet.
            sides.append(max(1, round(sheet if abs(frame - sheet) <= scale else frame)))
        return sides[0], sides[1]


def print_frame(width: float, height: float, sheet: Sheet) -> Printed:
    """A frame of ``width`` x ``height`` pixels on a sheet, turned like it, which it fills."""
    turned = sheet.lying_like(width, height)
    area_width, area_height = turned.area
    trim = 2 * turned.trim
    mm_per_pixel = max((area_width + trim) / width, (area_height + trim) / height)
    shown_width, shown_height = area_width / mm_per_pixel, area_height / mm_per_pixel
    shown = Rectangle((width - shown_width) / 2, (height - shown_height) / 2, shown_width, shown_height)
    cut = 1 - shown_width * shown_height / (width * height)
    return Printed(turned, 25.4 / mm_per_pixel, shown, cut)
