"""Views of a picture as it looks nearer by or farther off, to copy from where things run away.

Along a jetty, a path or a wall that recedes, one place looks like the next, but smaller. Moved along its own
direction by some way, a plane's picture goes over into itself by a perspective map that keeps the vanishing
point and every line through it, and the plane's own vanishing line point by point: an elation (R. Hartley, A.
Zisserman, *Multiple View Geometry in Computer Vision*, 2nd ed., 2004, A7.3). In a picture that is level that
line is level for the ground and plumb for a wall. What such a map makes of the picture around a hole is kept
beside the picture, where patches are looked for as well: in the sectors between the lines that recede, and
nowhere else, since a sky or a tree beside a fence does not run away with it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Array
from sequor.core.fill.areas import Box, box_of
from sequor.core.fill.blend import Mask, Values
from sequor.core.raster.pixels import Picture, values_of
from sequor.core.references.line import meeting_point

Numbers = NDArray[np.floating]
Point = tuple[float, float]

NEARER = np.geomspace(1.15, 2.0, 150)
"""So many times as large as where it comes from a view may show the middle of a hole, or as small."""

BAND = 24
"""Pixels beside a hole in which a view is compared with the picture,"""
COMPARED = 3000
"""at so many places at most."""

OFF = 20.0
"""What it costs a patch to come from a pixel beside the one that a view shows in its place."""

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

DEEPEST = 6.0
"""A view magnifies and reduces by less than this."""

ROWS = 64
"""So many rows of a view are made at once, for the memory's sake."""

WIDEST = 32_000
"""OpenCV samples pictures of fewer columns and rows."""

BESIDE, BESIDE_DEG = 0.15, 1.5
"""A sector reaches beyond its outer lines by such a share of its angle, and by so many degrees."""
WIDEST_GAP_DEG = 120.0
"""Neighbouring lines that are no farther apart bound one sector."""

NO_VIEWS = np.zeros((0, 7), np.int32)


@dataclass(frozen=True)
class Receding:
    """Where things run away to, and in which sectors about that point they lie: from one angle to another, in
    degrees, clockwise from the right."""

    point: Point
    sectors: tuple[tuple[float, float], ...]

    @classmethod
    def of(cls, lines: Array) -> Receding | None:
        """What the lines (n, 2, 2) of a group tell; None when they do not meet.

        >>> street = np.array([[[0.0, 9.0], [4.0, 5.0]], [[8.0, 10.0], [6.0, 6.0]], [[5.0, 2.0], [5.0, 3.0]]])
        >>> found = Receding.of(street)
        >>> found.point, found.sectors
        ((5.0, 4.0), ((51.2, 147.2), (268.5, 271.5)))
        """
        x, y = meeting_point(lines)
        if not np.isfinite(x + y):
            return None
        away = lines.mean(axis=1) - (x, y)
        angles = np.sort(np.rad2deg(np.arctan2(away[:, 1], away[:, 0])) % 360)
        gaps = np.diff(angles, append=angles[0] + 360)
        # It is begun behind the widest gap, so that no sector goes over the right.
        first = int(np.argmax(gaps)) + 1
        angles, gaps = np.roll(angles, -first), np.roll(gaps, -first)
        angles = np.where(angles < angles[0], angles + 360, angles)
        sectors = []
        for group in np.split(angles, np.nonzero(gaps[:-1] > WIDEST_GAP_DEG)[0] + 1):
            more = BESIDE * (group[-1] - group[0]) + BESIDE_DEG
            sectors.append((round(float(group[0] - more), 1), round(float(group[-1] + more), 1)))
        return cls((round(x, 1), round(y, 1)), tuple(sectors))

    def moved(self, across: float, down: float) -> Receding:
        """The same in a picture that begins elsewhere."""
        return replace(self, point=(self.point[0] + across, self.point[1] + down))

    def scaled(self, by: float) -> Receding:
        """The same in a picture of another size."""
        return replace(self, point=(self.point[0] * by, self.point[1] * by))

    def covers(self, x: Numbers, y: Numbers) -> Mask:
        """Whether points lie in one of the sectors."""
        angle = np.rad2deg(np.arctan2(y - self.point[1], x - self.point[0]))
        found = [(angle - begin) % 360 <= end - begin for begin, end in self.sectors]
        return np.asarray(np.any(found, axis=0))


@dataclass(frozen=True)
class View:
    """One view: its box on the canvas, ``across`` and ``down`` from the place in the picture it is a view of,
    what recedes there, and by how much the depth grows per pixel right and down of the vanishing point."""

    box: Box
    across: int
    down: int
    recedes: Receding
    slope: Point

    def origins(self, x: Numbers, y: Numbers) -> tuple[Numbers, Numbers, Numbers]:
        """Where in the picture (x, y) points of the canvas come from, and how many times as large they
        are."""
        point = self.recedes.point
        x, y = x - self.across - point[0], y - self.down - point[1]
        depth = 1 + self.slope[0] * x + self.slope[1] * y
        safe = np.maximum(depth, 1 / DEEPEST)
        return point[0] + x / safe, point[1] + y / safe, depth


@dataclass(frozen=True)
class Canvas:
    """A picture with views of it beneath, in pixels of the reduction that a fill begins with.

    ``start``: the row where views begin; ``rows``: of all.
    """

    start: int
    rows: int
    views: tuple[View, ...]

    def painted(
        self, picture: Picture, hole: Mask, barred: Mask | None, factor: int
    ) -> tuple[Values, Mask, Mask | None]:
        """The canvas of a picture (h, w, 3) that is so many times as large: its pixels, the hole, and what of
        it must not be copied."""
        if not self.views:
            return values_of(picture), hole, barred
        height, width = hole.shape
        pixels = np.empty((self.rows * factor, width, 3), np.float32)
        for first in range(0, height, ROWS):
            pixels[first : min(first + ROWS, height)] = values_of(picture[first : first + ROWS])
        # What lies between belongs to the picture's last row when it is halved.
        pixels[height:] = pixels[height - 1]
        open_ = np.zeros(pixels.shape[:2], np.bool_)
        open_[:height] = hole
        open_[height : self.start * factor] = hole[-1]
        bar = np.ones(pixels.shape[:2], np.bool_)
        bar[:height] = False if barred is None else barred
        closed = hole if barred is None else hole | barred
        unknown = np.asarray(cv2.dilate(closed.astype(np.uint8), np.ones((5, 5), np.uint8)), np.uint8)
        for view in self.views:
            left, top, wide, high = (factor * side for side in view.box)
            right = min(left + wide, width)
            for first in range(top, top + high, ROWS):
                place = np.s_[first : min(first + ROWS, top + high), left:right]
                shown, inside = self._seen(view, place, pixels[:height], unknown, factor)
                pixels[place], bar[place] = shown, ~inside
            # What is copied reaches over no border.
            bar[top : top + factor] = bar[top + high - factor : top + high] = True
            bar[top : top + high, left : left + factor] = True
            bar[top : top + high, max(right - factor, left) : right] = True
        return pixels, open_, bar

    def _seen(
        self, view: View, place: tuple[slice, slice], picture: Values, unknown: NDArray[np.uint8], factor: int
    ) -> tuple[Values, Mask]:
        """What a view has at some of its place, and where it has something."""
        height, width = picture.shape[:2]
        y, x = (np.mgrid[place].astype(np.float32) + np.float32(0.5)) / np.float32(factor)
        across, down, depth = view.origins(x, y)
        maps = np.asarray(factor * across - 0.5, np.float32), np.asarray(factor * down - 0.5, np.float32)
        seen = cv2.remap(picture, *maps, cv2.INTER_CUBIC, None, cv2.BORDER_REPLICATE)
        inside = (maps[0] >= 2) & (maps[1] >= 2) & (maps[0] < width - 3) & (maps[1] < height - 3)
        inside &= (depth > 1 / DEEPEST) & (depth < DEEPEST)
        inside &= cv2.remap(unknown, *maps, cv2.INTER_NEAREST) == 0
        inside &= view.recedes.covers(x - view.across, y - view.down)
        return np.clip(seen, 0, 255), inside

    def at(self, scale: float) -> Views:
        """Its views in a picture of another size, ``scale`` times as large."""
        return Views(self.views, scale)


@dataclass(frozen=True)
class Views:
    """The views of a level, which has ``scale`` pixels for one of the canvas."""

    views: tuple[View, ...]
    scale: float

    @cached_property
    def table(self) -> NDArray[np.int32]:
        """(n, 7), as the kernels take them: top, left, bottom and right on the canvas, how far that is down
        and across from the place in the picture, and what being off costs."""
        if not self.views:
            return NO_VIEWS
        boxes = np.array([(*one.box, one.down, one.across) for one in self.views]).T
        left, top, wide, high, down, across = np.round(boxes * self.scale)
        off = np.full(len(left), np.ceil(OFF / self.scale**2))
        return np.stack([top, left, top + high, left + wide, down, across, off], axis=1).astype(np.int32)

    def origins(
        self, rows: NDArray[np.integer], columns: NDArray[np.integer]
    ) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """The pixels of the picture that some of the canvas are views of; its own are their own."""
        out = rows.astype(np.intp), columns.astype(np.intp)
        for view, (top, left, bottom, right, *_) in zip(self.views, self.table, strict=True):
            own = (rows >= top) & (rows < bottom) & (columns >= left) & (columns < right)
            x, y, _ = view.origins((columns[own] + 0.5) / self.scale, (rows[own] + 0.5) / self.scale)
            out[0][own], out[1][own] = np.floor(y * self.scale), np.floor(x * self.scale)
        return out

    def spread(self, values: Values, rows: int) -> Values:
        """Values of a picture's pixels (h, w) on its canvas of so many rows: a view has those it comes
        from."""
        height, width = values.shape
        out = np.zeros((rows, width), np.float32)
        out[:height] = values
        for place, (row, column) in self._places(rows, width):
            out[place] = values[np.clip(row, 0, height - 1), np.clip(column, 0, width - 1)]
        return out

    def _places(
        self, rows: int, width: int
    ) -> Iterator[tuple[tuple[slice, slice], tuple[NDArray[np.intp], NDArray[np.intp]]]]:
        for top, left, bottom, right, *_ in self.table:
            place = np.s_[top : min(bottom, rows), left : min(right, width)]
            yield place, self.origins(*np.mgrid[place])


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
