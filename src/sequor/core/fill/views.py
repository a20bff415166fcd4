"""Which views of a picture a fill is given where things run away: those that go on best from beside it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.fill.areas import Box, box_of
from sequor.core.fill.blend import Mask
from sequor.core.fill.receding import DEEPEST, Canvas, Numbers, Receding, View
from sequor.core.raster.pixels import Picture, values_of

NEARER = np.geomspace(1.15, 2.0, 150)
"""So many times as large as where it comes from a view may show the middle of a hole, or as small."""

BAND = 24
"""Pixels beside a hole in which a view is compared with the picture,"""
COMPARED = 3000
"""at so many places at most."""

ANOTHER = 1.15
"""A second view of the same is nearer or farther by so much at least."""

LEAST_OFF = 0.08
"""Shares of the picture's longer side that a plane lies off its vanishing line: nearer to it all is too
far."""

LEAST_SHOWN = 0.35
"""Of the pixels of a hole a view must show so many."""

FARTHEST = 20.0
"""Times the picture's longer side within which lines meet, or nothing recedes."""

MOST_SHARE = 0.3
"""Shares of a picture's pixels that all of its views may have."""

FULL = 0.4
"""A box of which a hole has so much is not divided further,"""
SMALL = 64
"""nor one of so many pixels."""

WIDEST = 32_000
"""OpenCV samples pictures of fewer columns and rows."""


def canvas_of(picture: Picture, hole: Mask, recedes: Sequence[Receding], halvings: int) -> Canvas:
    """The canvas of a picture with a hole (h, w) in which things run away, in its pixels, and which is to be
    halved so often.

    Views are of what lies about the hole; of how much nearer by, is told by what goes on best from the
    picture beside it, so that what repeats does so in step. All are bounded by ``MOST_SHARE``.
    """
    height, width = hole.shape
    plain = Canvas(height, height, ())
    near = [one for one in recedes if np.hypot(*one.point) < FARTHEST * max(hole.shape)]
    if not near or max(hole.shape) > WIDEST or not hole.any():
        return plain
    # Halves of the picture have views at whole pixels too.
    step = 2**halvings
    start, room = _up(height, step), int(MOST_SHARE * height) // step * step
    shelves = _Shelves(_up(width, step), room)
    fit = _Fit(picture, hole)
    found = []
    for one in near:
        own = hole & one.covers(*np.meshgrid(np.arange(width) + 0.5, np.arange(height) + 0.5))
        pieces = _pieces(own, (0, 0, width, height), max(room - 6 * step, SMALL))
        found += [fit.best(_about(box, hole.shape, step), one) for box in pieces]
    views = []
    for view in (pair[rank] for rank in (0, 1) for pair in found):
        if view is None:
            continue
        left, top, wide, high = view.box
        place = shelves.place(wide, high)
        if place is not None:
            box = place[0], start + place[1], wide, high
            views.append(replace(view, box=box, across=box[0] - left, down=box[1] - top))
    return Canvas(start, start + shelves.used, tuple(views)) if views else plain


class _Fit:
    """How well views go on from a picture with a hole."""

    def __init__(self, picture: Picture, hole: Mask) -> None:
        self._hole = hole
        self._grey = values_of(picture).mean(axis=2)
        away = cv2.distanceTransform((~hole).astype(np.uint8), cv2.DIST_L2, 3)
        self._beside = (away > 2) & (away <= BAND)
        self._known = away > 2

    def best(self, box: Box, recedes: Receding) -> tuple[View | None, View | None]:
        """The two views of what is in a box that go on best from what is beside it, as the ground or as a
        wall; each may be missing."""
        left, top, wide, high = box
        part = np.s_[top : top + high, left : left + wide]
        own = recedes.covers(*np.meshgrid(np.arange(wide) + left + 0.5, np.arange(high) + top + 0.5))
        own = own[: len(self._hole) - top, : self._hole.shape[1] - left]
        y, x = (_some(one) for one in np.nonzero(self._hole[part] & own))
        hole = x + left + 0.5, y + top + 0.5
        y, x = (_some(one) for one in np.nonzero(self._beside[part] & own))
        beside = x + left, y + top
        found = []
        for axis in (0, 1):
            if not (len(x) and len(hole[0])):
                continue
            off = hole[axis].mean() - recedes.point[axis]
            if abs(off) < LEAST_OFF * max(self._hole.shape):
                continue
            for closer in (*NEARER, *(1 / NEARER)):
                slope = [0.0, 0.0]
                slope[axis] = (closer - 1) / off
                view = View(box, 0, 0, recedes, (slope[0], slope[1]))
                shown = self._sampled(view, *hole)[1].mean()
                values, known = self._sampled(view, beside[0] + 0.5, beside[1] + 0.5)
                if shown < LEAST_SHOWN or 2 * known.sum() < len(known):
                    continue
                unlike = np.abs(values - self._grey[beside[1], beside[0]])[known].mean()
                found.append((float(unlike / shown) * max(closer, 1.0), axis, closer, view))
        found.sort(key=lambda one: one[0])
        others = [
            one
            for one in found
            if one[1] != found[0][1] or abs(np.log(one[2] / found[0][2])) > np.log(ANOTHER)
        ]
        return (found[0][3] if found else None), (others[0][3] if others else None)

    def _sampled(self, view: View, x: Numbers, y: Numbers) -> tuple[Numbers, Mask]:
        """What a view shows at points of the picture, and whether it shows anything there."""
        height, width = self._hole.shape
        across, down, depth = view.origins(x, y)
        inside = (across >= 0) & (down >= 0) & (across < width) & (down < height)
        inside &= (depth > 1 / DEEPEST) & (depth < DEEPEST)
        row, column = (np.where(inside, one, 0).astype(np.intp) for one in (down, across))
        return self._grey[row, column], inside & self._known[row, column]


def _some(of: NDArray[np.integer]) -> NDArray[np.integer]:
    """Evenly chosen ones, ``COMPARED`` at most."""
    return of[:: 1 + len(of) // COMPARED]


def _pieces(hole: Mask, box: Box, highest: int) -> Iterator[Box]:
    """Boxes of a hole, divided until it has enough of each and none is higher than that."""
    left, top, wide, high = box
    own = hole[top : top + high, left : left + wide]
    inner = box_of(own)
    if inner is None:
        return
    left, top, wide, high = left + inner[0], top + inner[1], inner[2], inner[3]
    full = own.sum() >= FULL * wide * high
    if high > highest:
        yield from _divided(hole, (left, top, wide, high), 1, -(-high // highest), highest)
    elif full or max(wide, high) <= SMALL:
        yield left, top, wide, high
    else:
        across, down = (2, 1) if wide >= high else (1, 2)
        yield from _divided(hole, (left, top, wide, high), across, down, highest)


def _divided(hole: Mask, box: Box, across: int, down: int, highest: int) -> Iterator[Box]:
    left, top, wide, high = box
    columns, rows = np.linspace(left, left + wide, across + 1), np.linspace(top, top + high, down + 1)
    for first, last in pairwise(np.round(rows).astype(int).tolist()):
        for begin, end in pairwise(np.round(columns).astype(int).tolist()):
            yield from _pieces(hole, (begin, first, end - begin, last - first), highest)


def _about(box: Box, shape: tuple[int, ...], step: int) -> Box:
    """A box with what is beside it, at multiples of ``step``."""
    left, top, wide, high = box
    first_column, first_row = (max(side - 2 * step, 0) // step * step for side in (left, top))
    last_column, last_row = min(left + wide + 2 * step, shape[1]), min(top + high + 2 * step, shape[0])
    return first_column, first_row, _up(last_column - first_column, step), _up(last_row - first_row, step)


def _up(length: int, step: int) -> int:
    """The next multiple."""
    return -(-length // step) * step


class _Shelves:
    """Boxes side by side, shelf under shelf, in an area of this width and height."""

    def __init__(self, width: int, height: int) -> None:
        self._width, self.height = width, height
        self._top = self._left = self._high = 0

    @property
    def used(self) -> int:
        """The rows that are taken."""
        return self._top + self._high

    def place(self, wide: int, high: int) -> tuple[int, int] | None:
        """Where one more goes, left and top; None when there is no room."""
        if wide > self._width:
            return None
        below = self._left + wide > self._width
        top = self.used if below else self._top
        if top + high > self.height:
            return None
        if below:
            self._top, self._left, self._high = top, 0, 0
        place = (self._left, self._top)
        self._left, self._high = self._left + wide, max(self._high, high)
        return place
