"""The largest rectangle in the corrected picture, of a given ratio or of any, with what it must hold or meet.

The valid region is the photo's outline under the map, a convex polygon as long as there are no lens
terms. The largest rectangle of a given ratio is then a linear programme in its centre and its scale. It is
solved exactly by looking at the vertices of the feasible region: an optimum lies where three constraints
meet (V. Chvátal, *Linear Programming*, 1983, ch. 3 and 18). That the rectangle holds a box, or that a point
lies at a share of its width, are further constraints of the same kind. A lens bends the edge, and the region
need not be convex; there the place farthest from the edge is searched for (:mod:`inscribed`).
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np
import shapely

from .camera import Array
from .rectangle import TOUCH, Rectangle

BENT_TOUCH = 0.05
"""The same for a bent outline, whose curves are known that well; a pixel's centre is half a pixel inside."""

BENT_PRECISION = 0.15
"""Corrected pixels by which the largest rectangle in a bent outline may be too narrow."""

MOST_CORNERS = 8
"""A convex outline has no more corners: those of the photo, and one more for each cut."""

RATIOS_TRIED = 8
WIDEST_RATIO = 4.0
"""In a bent outline the best ratio is looked for within so many times that of the whole."""

COARSE = 1 / 2000
"""And in an outline with fewer points, to this share of its lesser side."""


class NoFrameError(ValueError):
    """There is no such rectangle."""


@dataclass(frozen=True)
class Wish:
    """What a rectangle must do besides lying in the outline.

    ``around``: a rectangle that it holds. ``across``: (x, share), the x that lies at this share of its width;
    ``down`` likewise (y, share of its height); shares are more than 0 and less than 1. ``at_most``: the
    largest scale that is wanted, in units of the width and height asked for.
    """

    around: Rectangle | None = None
    across: tuple[float, float] | None = None
    down: tuple[float, float] | None = None
    at_most: float = np.inf

    @property
    def shares(self) -> tuple[float, float]:
        """The shares of width and height at which its anchor lies; the middle where nothing is asked."""
        return (self.across or (0.0, 0.5))[1], (self.down or (0.0, 0.5))[1]


ANY = Wish()


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
        scale = room_about(outline, rectangle.width, rectangle.height, rectangle.centre)
        slack = 2 * BENT_TOUCH / min(rectangle.width, rectangle.height)
        return scale >= 1 - slack
    return HalfPlanes.of(outline).hold(rectangle)


def room_about(outline: Array, width: float, height: float, centre: Array) -> float:
    """The scale of the largest rectangle of this size about a centre (2,); not positive outside."""
    if not bent(outline):
        planes = HalfPlanes.of(outline)
        return float(((planes.offsets - planes.normals @ centre) / planes.reach(width, height)).min())
    # numba takes half a second to load: only a bent edge waits for it.
    from .inscribed import edges_of, room, sides_of

    edges = edges_of(outline / [width, height])
    x, y = centre / [width, height]
    return 2 * float(room(edges, len(edges), x, y, sides_of(0, 0), True))


def largest(outline: Array, width: float, height: float, near: Array, wish: Wish = ANY) -> Rectangle:
    """The largest rectangle of the ratio width : height inside an outline (N, 2) that does what is wished.

    Among equally large ones the one whose centre is nearest to ``near`` (2,) is taken. Exact, not rounded; in
    a bent outline to ``BENT_PRECISION``.

    Raises NoFrameError when there is none.
    """
    if bent(outline):
        return _largest_in_bent(outline, width, height, near, wish)
    planes = HalfPlanes.of(outline)
    rows = np.column_stack([planes.normals, planes.reach(width, height)])
    optima = _best_vertices(*_with_wish(rows, planes.offsets, width, height, wish))
    if not len(optima):
        raise NoFrameError("the outline has no inside")
    scale = float(optima[0, 2])
    best = shapely.MultiPoint(optima[:, :2]).convex_hull
    centre = shapely.get_coordinates(shapely.shortest_line(best, shapely.Point(near)))[0]
    return Rectangle.about(centre, width * scale, height * scale)


def _with_wish(rows: Array, offsets: Array, width: float, height: float, wish: Wish) -> tuple[Array, Array]:
    """The constraints ``rows @ (cx, cy, s) <= offsets`` with those of a wish."""
    more, limits = [], []
    if wish.around is not None:
        one = wish.around
        more += [[1, 0, -width / 2], [-1, 0, -width / 2], [0, 1, -height / 2], [0, -1, -height / 2]]
        limits += [one.x, -one.right, one.y, -one.bottom]
    if wish.across is not None:
        x, share = wish.across
        more += [[1, 0, (share - 0.5) * width], [-1, 0, (0.5 - share) * width]]
        limits += [x, -x]
    if wish.down is not None:
        y, share = wish.down
        more += [[0, 1, (share - 0.5) * height], [0, -1, (0.5 - share) * height]]
        limits += [y, -y]
    if np.isfinite(wish.at_most):
        # Weighed like the others, so that no determinant is small only for its unit.
        size = (width + height) / 2
        more += [[0, 0, size]]
        limits += [size * wish.at_most]
    if not more:
        return rows, offsets
    return np.vstack([rows, more]), np.concatenate([offsets, limits])


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


def _largest_in_bent(
    outline: Array,
    width: float,
    height: float,
    near: Array | None,
    wish: Wish,
    precision: float = BENT_PRECISION,
) -> Rectangle:
    """``near`` None: whichever of equally large ones."""
    from .inscribed import edges_of, need, pole, room, sides_of

    size = np.array([width, height])
    a, b = (2 * share - 1 for share in wish.shares)
    scaled = outline / size
    edges, sides = edges_of(scaled, a, b), sides_of(a, b)
    window = np.concatenate([scaled.min(axis=0), scaled.max(axis=0)])
    if wish.across is not None:
        window[[0, 2]] = wish.across[0] / width
    if wish.down is not None:
        window[[1, 3]] = wish.down[0] / height
    hold = np.array([np.inf, np.inf, -np.inf, -np.inf])
    if wish.around is not None:
        one = wish.around
        hold = np.array([one.x, one.y, one.right, one.bottom]) / [*size, *size]
    fine = precision / float(size.max()) / 2
    most = wish.at_most / 2
    x, y, half = pole(edges, window, sides, hold, most, fine)
    if half <= fine:
        raise NoFrameError("the outline has no inside")
    half = min(half, most)
    anchor = np.array([x, y])
    if near is None:
        return Rectangle.about(anchor * size, 2 * half * width, 2 * half * height, wish.shares)
    wanted = near / size

    def as_large(there: Array) -> bool:
        found = float(room(edges, len(edges), there[0], there[1], sides, True))
        return found >= half - fine / 4 and half >= need(hold, there[0], there[1], sides)

    # Of equally large ones the nearest: straight there, then what is still open along either axis.
    free = np.array([wish.across is None, wish.down is None], float)
    for way in (np.array([1.0, 1.0]), np.array([1.0, 0.0]), np.array([0.0, 1.0])):
        step = way * free * (wanted - anchor)
        open_, closed = 0.0, 1.0
        if as_large(anchor + step):
            open_ = 1.0
        while (closed - open_) * float(np.abs(step).max()) > fine and open_ < 1.0:
            middle = (open_ + closed) / 2
            open_, closed = (middle, closed) if as_large(anchor + middle * step) else (open_, middle)
        anchor = anchor + open_ * step
    half = min(most, float(room(edges, len(edges), anchor[0], anchor[1], sides, True)))
    return Rectangle.about(anchor * size, 2 * half * width, 2 * half * height, wish.shares)


def largest_of_any_ratio(outline: Array, near: Array, around: Rectangle | None = None) -> Rectangle:
    """The rectangle of the largest area inside an outline (N, 2) that holds ``around``, whatever its ratio.

    In a convex outline log width + log height is concave under linear constraints, and the maximum is found
    exactly (sequential least squares, scipy's SLSQP). In a bent one the ratio is searched for, to a
    thousandth of the area. Raises NoFrameError when there is none.
    """
    width, height = _best_size_in_bent(outline, around) if bent(outline) else _best_size(outline, around)
    # Of equally large ones the nearest, and never by a rounding error too large.
    return largest(outline, width, height, near, Wish(around=around, at_most=1.0))


def _best_size(outline: Array, around: Rectangle | None) -> tuple[float, float]:
    planes = HalfPlanes.of(outline)
    wide, high = np.ptp(outline, axis=0)
    start = largest(outline, wide, high, outline.mean(axis=0), Wish(around=around))
    from scipy.optimize import minimize  # heavy, and needed for a free shape alone

    unit = max(start.width, start.height)
    rows = np.column_stack([planes.normals, np.abs(planes.normals) / 2])
    offsets = planes.offsets
    if around is not None:
        sides = [[1, 0, -0.5, 0], [-1, 0, -0.5, 0], [0, 1, 0, -0.5], [0, -1, 0, -0.5]]
        rows = np.vstack([rows, sides])
        offsets = np.concatenate([offsets, [around.x, -around.right, around.y, -around.bottom]])
    origin = np.array([*start.centre, 0.0, 0.0])
    offsets = (offsets - rows @ origin) / unit
    answer = minimize(
        lambda v: -np.log(v[2] * v[3]),
        [0.0, 0.0, start.width / unit, start.height / unit],
        jac=lambda v: np.array([0.0, 0.0, -1 / v[2], -1 / v[3]]),
        method="SLSQP",
        bounds=[(None, None), (None, None), (1e-6, None), (1e-6, None)],
        constraints={"type": "ineq", "fun": lambda v: offsets - rows @ v, "jac": lambda v: -rows},
        options={"ftol": 1e-12, "maxiter": 200},
    )
    return float(answer.x[2] * unit), float(answer.x[3] * unit)


def _best_size_in_bent(outline: Array, around: Rectangle | None) -> tuple[float, float]:
    from scipy.optimize import minimize_scalar  # heavy, and needed for a free shape alone

    wide, high = np.ptp(outline, axis=0)
    precision = COARSE * float(min(wide, high))
    coarse = shapely.get_coordinates(shapely.simplify(shapely.Polygon(outline), precision))[:-1]
    whole = float(np.log(wide / high))

    def found(log_ratio: float, polygon: Array, precision: float) -> Rectangle | None:
        width = float(np.exp(log_ratio)) * high
        try:
            return _largest_in_bent(polygon, width, high, None, Wish(around=around), precision)
        except NoFrameError:
            return None

    def area(log_ratio: float) -> float:
        one = found(log_ratio, coarse, precision)
        return one.width * one.height if one else 0.0

    reach = float(np.log(WIDEST_RATIO))
    tried = np.linspace(whole - reach, whole + reach, RATIOS_TRIED)
    step = tried[1] - tried[0]
    best = tried[int(np.argmax([area(one) for one in tried]))]
    answer = minimize_scalar(
        lambda one: -area(one), bounds=(best - step, best + step), method="bounded", options={"xatol": 1e-2}
    )
    one = found(float(answer.x), outline, BENT_PRECISION) or found(float(best), outline, BENT_PRECISION)
    if one is None:
        raise NoFrameError("the outline has no inside")
    return one.width, one.height


def shrink_into(outline: Array, rectangle: Rectangle) -> Rectangle:
    """The rectangle about the same centre, smaller only as far as it must be to lie in the outline (N, 2).

    When the centre itself lies outside, it moves to the nearest point that leaves room for a tenth of
    the largest such rectangle.
    """
    width, height, centre = rectangle.width, rectangle.height, rectangle.centre
    room = room_about(outline, width, height, centre)
    if room <= 0.1:
        best = largest(outline, width, height, centre)
        for step in np.linspace(0.0, 1.0, 101):
            moved = (1 - step) * centre + step * best.centre
            room = room_about(outline, width, height, moved)
            if room >= 0.1 * best.width / width:
                centre = moved
                break
    scale = min(1.0, room)
    return Rectangle.about(centre, width * scale, height * scale)
