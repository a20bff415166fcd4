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

from dataclasses import dataclass, replace
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Array
from sequor.core.fill.areas import Box
from sequor.core.fill.blend import Mask, Values
from sequor.core.raster.pixels import Picture, values_of
from sequor.core.references.line import meeting_point

Numbers = NDArray[np.floating]
Point = tuple[float, float]

OFF = 20.0
"""What it costs a patch to come from a pixel beside the one that a view shows in its place."""

DEEPEST = 6.0
"""A view magnifies and reduces by less than this."""

ROWS = 64
"""So many rows of a view are made at once, for the memory's sake."""

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
        for top, left, bottom, right, *_ in self.table:
            place = np.s_[top : min(bottom, rows), left : min(right, width)]
            row, column = self.origins(*np.mgrid[place])
            out[place] = values[np.clip(row, 0, height - 1), np.clip(column, 0, width - 1)]
        return out
