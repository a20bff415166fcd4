"""What metadata mark in a picture, carried through a correction: faces, the subject."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from sequor.core.camera import Array

Through = Callable[[Array], Array]
"""Pixels (n, 2) of the exported picture for pixels of the original as it is stored, before its orientation;
NaN where they are not shown."""

SIDES = np.linspace(0, 1, 5)
LEAST_SHOWN = 0.25
"""The share of a marked area that must lie in the picture, else nobody would find in it what it marks."""


@dataclass(frozen=True)
class Marked:
    """An area: its centre and its size in pixels."""

    x: float
    y: float
    width: float = 0.0
    height: float = 0.0


def carried_area(area: Marked, through: Through, width: int, height: int) -> Marked | None:
    """The area that holds what a marked one held, cut at the border of a picture of this size; None where
    most of it is gone."""
    left, top = area.x - area.width / 2, area.y - area.height / 2
    edge = [
        (left + across * area.width, top + down * area.height)
        for across in SIDES
        for down in SIDES
        if {across, down} & {0.0, 1.0}
    ]
    points = through(np.array([*edge, (area.x, area.y)]))
    if not np.all(np.isfinite(points)):
        return None
    (x0, y0), (x1, y1) = points.min(axis=0), points.max(axis=0)
    inside = max(0.0, min(x1, width) - max(x0, 0.0)), max(0.0, min(y1, height) - max(y0, 0.0))
    whole = (x1 - x0) * (y1 - y0)
    if area.width == area.height == 0:
        shown = 0 <= x0 <= width and 0 <= y0 <= height
    else:
        shown = inside[0] * inside[1] >= LEAST_SHOWN * whole
    if not shown:
        return None
    x0, y0, x1, y1 = max(x0, 0.0), max(y0, 0.0), min(x1, float(width)), min(y1, float(height))
    return Marked(float(x0 + x1) / 2, float(y0 + y1) / 2, float(x1 - x0), float(y1 - y0))


def stored_to_upright(points: Array, orientation: int, width: int, height: int) -> Array:
    """Pixels (n, 2) of a picture as stored, ``width`` x ``height``, in the picture as its orientation turns
    it (CIPA DC-008-2019, tag 0x0112).

    >>> stored_to_upright(np.array([[1.0, 0.0]]), 6, 4, 3).tolist()
    [[3.0, 1.0]]
    """
    x, y = np.asarray(points, float).T
    if orientation in (2, 3, 7, 8):
        x = width - x
    if orientation in (3, 4, 6, 7):
        y = height - y
    return np.column_stack([y, x] if orientation in (5, 6, 7, 8) else [x, y])
