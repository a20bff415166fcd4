"""The frame: the largest rectangle of a ratio inside the corrected picture, and what a frame costs.

The valid region is the photo's outline under the map, a convex polygon as long as there are no lens
terms. The largest rectangle of a given ratio is then a linear programme in its centre and its scale.
It is solved exactly by looking at the vertices of the feasible region: an optimum lies where three
constraints meet (V. Chvátal, *Linear Programming*, 1983, ch. 3 and 18). A lens bends the edge, and the region
need not be convex; there the place farthest from the edge is searched for (:mod:`inscribed`).
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np
import shapely
from shapely import Polygon, box

from .camera import Array
from .mapping import Mapping

TOUCH = 1e-6
"""Corrected pixels by which a rectangle may reach over the outline and still counts as inside."""

BENT_TOUCH = 0.05
"""The same for a bent outline, whose curves are known that well; a pixel's centre is half a pixel inside."""

BENT_PRECISION = 0.15
"""Corrected pixels by which the largest rectangle in a bent outline may be too narrow."""

MOST_CORNERS = 8
"""A convex outline has no more corners: those of the photo, and one more for each cut."""

COST_POINTS = 128
"""Points along the photo's longer side by which an area's edge is followed back into the photo."""


@dataclass(frozen=True)
class Rectangle:
    """An upright rectangle in corrected pixels: (x, y) its top left corner."""

    x: float
    y: float
    width: float
    height: float

    @property
    def centre(self) -> Array:
        """The centre (2,) in corrected pixels."""
        return np.array([self.x + self.width / 2, self.y + self.height / 2])

    @classmethod
    def about(cls, centre: Array, width: float, height: float) -> Rectangle:
        """The rectangle of this size about a centre (2,)."""
        return cls(float(centre[0]) - width / 2, float(centre[1]) - height / 2, width, height)

    def inwards(self) -> Rectangle:
        """The same about the same centre with whole pixels, never larger, never under one pixel."""
        width, height = (max(1.0, float(np.floor(side + TOUCH))) for side in (self.width, self.height))
        return Rectangle.about(self.centre, width, height)


@dataclass(frozen=True)
class HalfPlanes:
    """A convex region as ``normals @ point <= offsets``: (N, 2) outward unit normals, (N,) offsets."""

    normals: Array
    offsets: Array

    @classmethod
    def of(cls, outline: Array) -> HalfPlanes:
        """The inside of a convex polygon (N, 2), whichever way round it runs."""
        edges = np.roll(outline, -1, axis=0) - outline
        normals = np.stack([edges[:, 1], -edges[:, 0]], axis=1) / np.linalg.norm(edges, axis=1)[:, None]
        if np.sum(normals * (outline - outline.mean(axis=0))) < 0:
            normals = -normals
        return cls(normals, np.sum(normals * outline, axis=1))

    def reach(self, width: float, height: float) -> Array:
        """How far an upright rectangle of this size reaches beyond its centre along each normal, (N,)."""
        reach: Array = np.abs(self.normals) @ np.array([width, height]) / 2
        return reach

    def hold(self, rectangle: Rectangle, tolerance: float = TOUCH) -> bool:
        """Whether the rectangle lies inside."""
        reach = self.reach(rectangle.width, rectangle.height)
        return bool(np.all(self.normals @ rectangle.centre + reach <= self.offsets + tolerance))


def bent(outline: Array) -> bool:
    """Whether an outline is a fine polygon, as a lens makes it, and not a convex one of few corners."""
    return len(outline) > MOST_CORNERS


def holds(outline: Array, rectangle: Rectangle) -> bool:
    """Whether the rectangle lies in the outline (N, 2)."""
    if bent(outline):
        scale = _room(outline, rectangle.width, rectangle.height, rectangle.centre)
        slack = 2 * BENT_TOUCH / min(rectangle.width, rectangle.height)
        return scale >= 1 - slack
    return HalfPlanes.of(outline).hold(rectangle)


def largest(outline: Array, width: float, height: float, near: Array) -> Rectangle:
    """The largest rectangle of the ratio width : height inside an outline (N, 2).

    Among equally large ones the one whose centre is nearest to ``near`` (2,) is taken. Exact, not rounded; in
    a bent outline to ``BENT_PRECISION``.

    Raises ValueError when the outline has no inside.
    """
    if bent(outline):
        return _largest_in_bent(outline, width, height, near)
    planes = HalfPlanes.of(outline)
    rows = np.column_stack([planes.normals, planes.reach(width, height)])
    optima = _best_vertices(rows, planes.offsets)
    if not len(optima):
        raise ValueError("the outline has no inside")
    scale = float(optima[0, 2])
    first, last = optima[np.lexsort((optima[:, 1], optima[:, 0]))][[0, -1], :2]
    centre = _nearest_on_segment(first, last, near)
    return Rectangle.about(centre, width * scale, height * scale)


def shrink_into(outline: Array, rectangle: Rectangle) -> Rectangle:
    """The rectangle about the same centre, smaller only as far as it must be to lie in the outline (N, 2).

    When the centre itself lies outside, it moves to the nearest point that leaves room for a tenth of
    the largest such rectangle.
    """
    width, height, centre = rectangle.width, rectangle.height, rectangle.centre
    room = _room(outline, width, height, centre)
    if room <= 0.1:
        best = largest(outline, width, height, centre)
        for step in np.linspace(0.0, 1.0, 101):
            moved = (1 - step) * centre + step * best.centre
            room = _room(outline, width, height, moved)
            if room >= 0.1 * best.width / width:
                centre = moved
                break
    scale = min(1.0, room)
    return Rectangle.about(centre, width * scale, height * scale)


def _room(outline: Array, width: float, height: float, centre: Array) -> float:
    """The scale of the largest rectangle of this size about a centre (2,); not positive outside."""
    if not bent(outline):
        planes = HalfPlanes.of(outline)
        return float(((planes.offsets - planes.normals @ centre) / planes.reach(width, height)).min())
    from .inscribed import edges_of, room

    edges = edges_of(outline / [width, height])
    x, y = centre / [width, height]
    return 2 * float(room(edges, len(edges), x, y, True))


def _largest_in_bent(outline: Array, width: float, height: float, near: Array) -> Rectangle:
    # numba takes half a second to load: only a bent edge waits for it.
    from .inscribed import edges_of, pole, room

    size = np.array([width, height])
    edges = edges_of(outline / size)
    fine = BENT_PRECISION / float(size.max()) / 2
    x, y, half = pole(edges, fine)
    if half <= fine:
        raise ValueError("the outline has no inside")
    centre, wanted = np.array([x, y]), near / size

    def as_large(there: Array) -> bool:
        return float(room(edges, len(edges), there[0], there[1], True)) >= half - fine / 4

    # Of equally large ones the nearest: straight there, then what is still open along either axis.
    for way in (np.array([1.0, 1.0]), np.array([1.0, 0.0]), np.array([0.0, 1.0])):
        step = way * (wanted - centre)
        open_, closed = 0.0, 1.0
        if as_large(centre + step):
            open_ = 1.0
        while (closed - open_) * float(np.abs(step).max()) > fine and open_ < 1.0:
            middle = (open_ + closed) / 2
            open_, closed = (middle, closed) if as_large(centre + middle * step) else (open_, middle)
        centre = centre + open_ * step
    half = float(room(edges, len(edges), centre[0], centre[1], True))
    return Rectangle.about(centre * size, 2 * half * width, 2 * half * height)


def carry(rectangle: Rectangle, before: Mapping, after: Mapping) -> Rectangle:
    """A hand-made frame under a new map: centre on the same point of the photo, shrunk as far as it must."""
    on_photo = before.to_photo(rectangle.centre[None])
    centre = after.to_corrected(on_photo)[0]
    moved = Rectangle.about(centre, rectangle.width, rectangle.height)
    kept = shrink_into(after.outline(), moved)
    return moved if kept.width >= rectangle.width - TOUCH else kept.inwards()


@dataclass(frozen=True)
class Cost:
    """What a frame shows: ``kept`` of the photo's area, and ``empty`` of its own area (shares, 0 to 1)."""

    kept: float
    empty: float


def cost(rectangle: Rectangle, mapping: Mapping) -> Cost:
    """The cost of a frame in corrected pixels; exact polygon areas."""
    frame = box(rectangle.x, rectangle.y, rectangle.x + rectangle.width, rectangle.y + rectangle.height)
    covered = Polygon(mapping.outline()).intersection(frame)
    photo_area = float(mapping.width * mapping.height)
    if covered.is_empty:
        return Cost(0.0, 1.0)
    if not mapping.lens.straight:
        covered = shapely.segmentize(covered, max(mapping.width, mapping.height) / COST_POINTS)
    shown = mapping.to_photo(np.asarray(covered.exterior.coords))
    return Cost(Polygon(shown).area / photo_area, max(0.0, 1.0 - covered.area / frame.area))


def _best_vertices(rows: Array, offsets: Array) -> Array:
    """All optimal vertices (M, 3) of max s subject to ``rows @ (cx, cy, s) <= offsets``, s >= 0."""
    triples = np.array(list(combinations(range(len(rows)), 3)))
    matrices = rows[triples]
    regular = np.abs(np.linalg.det(matrices)) > 1e-12 * np.abs(rows[:, 2]).max()
    vertices = np.linalg.solve(matrices[regular], offsets[triples[regular]][..., None])[..., 0]
    slack = 1e-9 * max(1.0, float(np.abs(offsets).max()))
    feasible = np.all(vertices @ rows.T <= offsets + slack, axis=1) & (vertices[:, 2] > 0)
    found: Array = vertices[feasible]
    best: Array = found[found[:, 2] >= found[:, 2].max(initial=0.0) * (1 - 1e-9)]
    return best


def _nearest_on_segment(first: Array, last: Array, point: Array) -> Array:
    span = last - first
    length = float(span @ span)
    share = float(np.clip((point - first) @ span / length, 0, 1)) if length > 0 else 0.0
    nearest: Array = first + share * span
    return nearest
