"""The warp of a wide view, as a lattice over the corrected picture."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Self

import numpy as np
import shapely

from sequor.core.camera import Array
from sequor.core.rectangle import Rectangle
from sequor.core.warp.lattice import Lattice
from sequor.core.warp.lattice_warp import LatticeWarp
from sequor.core.warp.locate import Compiled
from sequor.core.warp.outline import BORDER_POINTS, photo_border, photo_corners
from sequor.core.warp.wide.base_view import BORDER, STRONGEST_AREA
from sequor.core.warp.wide.exact import Exact
from sequor.core.warp.wide.field import BEYOND, Field

FINE, FINEST = 240, 480
FINEST_FROM = 12e6
"""Cells along the longer side of the lattice, and photo pixels from which there are more."""

FINEST_EDGE = 0.01
"""Radians, about, between points of an edge that is cut."""

LEAST_SHOWN = 0.02
"""Of the photo: less is no picture."""

AROUND = 2.5
"""Cells about the picture in which the lattice still follows the map."""

NOWHERE = -1e9
"""Stands for a place that shows nothing of the photo."""


class CannotShowError(ValueError):
    """The wide view cannot be made."""


@dataclass(frozen=True, eq=False)
class Displaced:
    """A wide view with its wishes: ``field`` moves the pixels of the base view."""

    exact: Exact
    field: Field

    def from_level(self, rays: Array) -> Array:
        """Corrected pixels (N, 2) of level rays (N, 3)."""
        base = self.exact.view.from_level(rays)
        return base + self.field(base)

    def from_photo(self, points: Array) -> Array:
        """Corrected pixels (N, 2) of photo pixels (N, 2)."""
        return self.from_level(self.exact.rays_of(points))

    def to_photo(self, points: Array) -> Array:
        """Photo pixels (N, 2) of corrected pixels (N, 2); NaN where there are none."""
        return self.exact.photo_of(self.to_level(points))

    def to_level(self, points: Array) -> Array:
        """Unit level rays (N, 3) of corrected pixels (N, 2), beyond the photo too; NaN where there are
        none."""
        # numba takes half a second to load, and only here.
        from sequor.core.warp.wide.inverted import inverted

        base, field = np.empty_like(points), self.field
        inverted(field.x, field.y, field.cell, field.weights, BEYOND, np.ascontiguousarray(points), base)
        return self.exact.view.to_level(base)


@dataclass(frozen=True, eq=False)
class WideWarp(LatticeWarp):
    """``map`` is what the lattice follows; ``border`` (N, 2), in photo pixels, the edge of what it shows.
    ``reduced``: how many times as large the photo is as the map has it, and the output across and down."""

    map: Displaced
    border: Array
    reduced: tuple[float, float, float] = (1.0, 1.0, 1.0)

    @property
    def cuts(self) -> bool:
        shown = shapely.Polygon(self.border).area
        return bool(shown < self.map.exact.size[0] * self.map.exact.size[1] * (1 - 1e-9))

    def _start(self, points: Array) -> Array:
        scale, across, down = self.reduced
        return self.map.from_photo(points / scale) * [across, down]

    def to_corrected(self, points: Array) -> Array:
        start = self._start(points)
        found = self.lattice.inverse(points, start)
        # At the very rim of a circle the lattice is flat and has no inverse; the closed map is as good there.
        area = self.lattice.area
        with np.errstate(invalid="ignore"):
            there = (start >= [area.x, area.y]) & (start <= [area.right, area.bottom])
        rim = np.all(there, axis=1, keepdims=True) & ~np.all(np.isfinite(found), axis=1, keepdims=True)
        return np.where(rim, start, found)

    def to_photo(self, points: Array) -> Array:
        found = super().to_photo(points)
        return np.where(found.min(axis=1, keepdims=True) < NOWHERE / 1e3, np.nan, found)

    def turned(self, ideal: Array) -> Array:
        (scale, across, down), exact = self.reduced, self.map.exact
        away = (ideal / scale - exact.lens.centre) / exact.focal_px
        rays = np.column_stack([away, np.ones(len(away))])
        rays /= np.linalg.norm(rays, axis=1, keepdims=True)
        return self.map.from_level(rays @ exact.turn.T) * [across, down]

    def to_ideal(self, points: Array) -> Array:
        (scale, across, down), exact = self.reduced, self.map.exact
        rays = self.map.to_level(points / [across, down]) @ exact.turn
        with np.errstate(divide="ignore", invalid="ignore"):
            away = np.where(rays[:, 2:] > 0, rays[:, :2] / rays[:, 2:], np.nan)
        return (away * exact.focal_px + exact.lens.centre) * scale

    def _edge(self) -> Array:
        _, across, down = self.reduced
        return self.map.from_photo(self.border) * [across, down]

    @property
    def own_size(self) -> Rectangle:
        """Of the photo's ratio and as large as what is shown: a wide view is smaller than its photo."""
        outline = self.outline()
        by = float(np.sqrt(shapely.Polygon(outline).area / (self.width * self.height)))
        middle = (outline.min(axis=0) + outline.max(axis=0)) / 2
        return Rectangle.about(middle, by * self.width, by * self.height)

    def _shown(self, points: Array) -> Array:
        if not self.cuts:
            return points
        shown = shapely.Polygon(self.border * self.reduced[0]).buffer(0)
        middle = shapely.Point(self.width / 2, self.height / 2)
        centre = (middle if shown.contains(middle) else shown.representative_point()).coords[0]
        found = points.copy()
        for index in np.nonzero(~shapely.contains_xy(shown.buffer(1e-6), points))[0]:
            way = shapely.LineString([centre, points[index]]).intersection(shown)
            found[index] = np.asarray(way.geoms[0].coords if hasattr(way, "geoms") else way.coords)[-1]
        return found

    def at_scale(self, scale: float) -> Self:
        size = round(self.width * scale), round(self.height * scale)
        photo, across, down = self.reduced
        return replace(
            self,
            width=size[0],
            height=size[1],
            lens=self.lens.scaled(scale),
            lattice=self.lattice.scaled((scale, scale), scale),
            reduced=(photo * scale, across * scale, down * scale),
        )

    def resized(self, across: float, down: float) -> Self:
        photo, x, y = self.reduced
        lattice = self.lattice.scaled((across, down), 1.0)
        return replace(self, lattice=lattice, reduced=(photo, x * across, y * down))

    def compiled(self) -> Compiled:
        reach = self.lens.recorded_reach
        lens = np.zeros(11)
        if np.isfinite(reach):
            lens[:2], lens[3] = self.lens.centre, reach**2
        return super().compiled()._replace(lens=lens)


def wide_border(exact: Exact) -> Array:
    """The edge (N, 2) in photo pixels of what a view shows: the photo's own border, as far as the lens
    records and nothing is enlarged too much. Raises CannotShowError."""
    width, height = exact.size
    whole = shapely.Polygon(photo_border(width, height))
    reach, lens = exact.lens.recorded_reach, exact.lens
    if np.isfinite(reach):
        around = np.linspace(0, 2 * np.pi, BORDER, endpoint=False)
        # A little within, so that the edge itself still has rays.
        ring = (1 - 1e-9) * reach * np.column_stack([np.cos(around), np.sin(around)]) + lens.centre
        whole = _both(whole, shapely.Polygon(ring))
    edge = _ring(shapely.segmentize(whole.exterior, max(width, height) / BORDER_POINTS))
    # Cut where all directions have a place, also those that a flat lens has behind it.
    seen = shapely.make_valid(shapely.Polygon(_stereographic(exact.rays_of(edge))))
    limit = shapely.Polygon(_stereographic(exact.view.limit(_strongest(exact))))
    if not limit.contains(seen):
        cut = _both(seen, limit)
        ring = _ring(shapely.segmentize(cut.exterior, FINEST_EDGE)) if cut.area > 0 else np.zeros((0, 2))
        edge = exact.photo_of(_from_stereographic(ring))
        if len(edge) < 3 or shapely.Polygon(edge).area < LEAST_SHOWN * whole.area:
            raise CannotShowError("hardly anything of the picture can be shown like this")
    return edge


def _ring(line: shapely.LinearRing) -> Array:
    """The points (N, 2) of a ring, clockwise as it is seen, the last not the first again."""
    points = np.asarray(line.coords, np.float64)[:-1]
    return points if line.is_ccw else points[::-1]


def _stereographic(rays: Array) -> Array:
    """Rays (N, 3) on a plane that has a place (N, 2) for all but the one straight behind."""
    return np.asarray(2 * rays[:, :2] / np.maximum(1 + rays[:, 2:], 1e-9))


def _from_stereographic(points: Array) -> Array:
    """Unit rays (N, 3) of such places (N, 2)."""
    square = np.sum(points**2, axis=1, keepdims=True) / 4
    return np.asarray(np.column_stack([points, 1 - square]) / (1 + square))


def _both(one: shapely.Polygon, other: shapely.Geometry) -> shapely.Polygon:
    found = one.intersection(other)
    parts = [part for part in getattr(found, "geoms", [found]) if isinstance(part, shapely.Polygon)]
    return max(parts, key=lambda part: part.area, default=shapely.Polygon())


def _strongest(exact: Exact) -> float:
    """By how much an area may be enlarged, what the photo itself enlarges at its corners allowed for."""
    corners = exact.lens.rays(photo_corners(*exact.size), exact.focal_px)
    if not exact.lens.flat or not np.all(np.isfinite(corners)):
        return STRONGEST_AREA
    return STRONGEST_AREA / float(corners[:, 2].min()) ** 3


def warp_over(map_: Displaced, border: Array) -> WideWarp:
    """The warp of a wide view. Raises CannotShowError."""
    exact = map_.exact
    width, height = exact.size
    outline = map_.from_photo(border)
    bounds = Rectangle.between(outline)
    longest = FINEST if width * height >= FINEST_FROM else FINE
    cell = max(bounds.width, bounds.height) / longest
    columns, rows = (int(np.ceil(side / cell)) + 2 for side in (bounds.width, bounds.height))
    area = Rectangle(bounds.x - cell, bounds.y - cell, columns * cell, rows * cell)
    lattice = Lattice(area, np.zeros((rows + 1, columns + 1, 2)))
    nodes = lattice.nodes.reshape(-1, 2)
    edge = shapely.Polygon(outline).buffer(0)
    near = shapely.contains_xy(edge.buffer(AROUND * cell), nodes[:, 0], nodes[:, 1])
    values = np.full((len(nodes), 2), NOWHERE)
    values[near] = map_.to_photo(nodes[near])
    lost = ~np.isfinite(values).all(axis=1)
    if np.any(lost & shapely.contains_xy(edge.buffer(cell), nodes[:, 0], nodes[:, 1])):
        raise CannotShowError("the picture would overlap itself")
    values[lost] = NOWHERE
    lattice = replace(lattice, values=values.reshape(lattice.values.shape))
    return WideWarp(width, height, exact.lens, lattice, map_, border)
