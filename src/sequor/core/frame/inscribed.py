"""The largest upright square in a region whose edge is a fine polygon, convex or not; compiled by numba.

In the metric max(|x|, |y|) a square is a ball, so the largest square lies about the point farthest from the
edge. That distance changes by no more than the point moves, so whole cells of a grid can be left out
(P. Hansen, B. Jaumard, *Lipschitz Optimization*, in Handbook of Global Optimization, 1995). Coordinates are
such that the wanted rectangle is a square.

A square may also be hung on its anchor: a point that lies (1 + a) / 2 of the way across it and (1 + b) / 2 of
the way down. With a = b = 0 that is its middle.
"""

from __future__ import annotations

import numpy as np
from numba import njit, types

from sequor.core.camera import Array

EDGES = types.Array(types.float64, 2, "C", readonly=True)
FIRST_CELLS = 8
MOST_CELLS = 40_000


def edges_of(polygon: Array, a: float = 0.0, b: float = 0.0) -> Array:
    """The edges (N, 8) of a polygon (N, 2): both ends, the way between them, and on either side of it
    1 / how far a square of half side 1, hung on the anchor (a, b), reaches across that way."""
    following = np.roll(polygon, -1, axis=0)
    along = following - polygon
    dx, dy = along.T
    left, right, top, bottom = 1 + a, 1 - a, 1 + b, 1 - b
    there = np.maximum(dy * right, -dy * left) + np.maximum(-dx * bottom, dx * top)
    back = np.maximum(-dy * right, dy * left) + np.maximum(dx * bottom, -dx * top)
    reaches = [1 / np.maximum(reach, 1e-300) for reach in (there, back)]
    return np.column_stack([polygon, following, along, *reaches])


def sides_of(a: float, b: float) -> Array:
    """1 / how far a square of half side 1 reaches left, right, up and down of its anchor, (4,)."""
    return 1 / np.array([1 + a, 1 - a, 1 + b, 1 - b])


@njit(
    types.float64(EDGES, types.int64, types.float64, types.float64, types.float64[:], types.boolean),
    cache=True,
    nogil=True,
)
def room(edges: Array, count: int, x: float, y: float, sides: Array, sign: bool) -> float:
    """Half the side of the largest square, hung on (x, y), that none of the first ``count`` edges enters.

    Negative outside, if ``sign``. An edge and a square are apart along one of their three normals
    (S. Gottschalk, *Separating axis theorem*, TR 96-024, UNC Chapel Hill, 1996).
    """
    least = np.inf
    inside = False
    left, right, top, bottom = sides[0], sides[1], sides[2], sides[3]
    for number in range(count):
        ax, ay = edges[number, 0] - x, edges[number, 1] - y
        bx, by = edges[number, 2] - x, edges[number, 3] - y
        dx, dy = edges[number, 4], edges[number, 5]
        across = ax * dy - ay * dx
        apart = max(across * edges[number, 6], -across * edges[number, 7])
        apart = max(apart, min(ax, bx) * right, -max(ax, bx) * left)
        apart = max(apart, min(ay, by) * bottom, -max(ay, by) * top)
        least = min(least, apart)
        inside ^= ((ay > 0.0) != (by > 0.0)) & ((across > 0.0) == (dy > 0.0))
    return least if inside or not sign else -least


@njit(types.float64(types.float64[:], types.float64, types.float64, types.float64[:]), cache=True, nogil=True)
def need(hold: Array, x: float, y: float, sides: Array) -> float:
    """Half the side that a square hung on (x, y) must have to hold the box (left, top, right, bottom)."""
    across = max((x - hold[0]) * sides[0], (hold[2] - x) * sides[1])
    down = max((y - hold[1]) * sides[2], (hold[3] - y) * sides[3])
    held: float = max(across, down)
    return held


@njit(cache=True)
def that_matter(edges, count, cells, values, kept, half, widest):  # type: ignore[no-untyped-def]
    """Move the edges that may be nearest to a point of a cell to the front; how many they are."""
    left, right = cells[:kept, 0].min() - half, cells[:kept, 0].max() + half
    top, bottom = cells[:kept, 1].min() - half, cells[:kept, 1].max() + half
    farthest = (values[:kept].max() + 2 * half) * widest
    matter = 0
    for number in range(count):
        ax, ay, bx, by = edges[number, 0], edges[number, 1], edges[number, 2], edges[number, 3]
        across = max(min(ax, bx) - right, left - max(ax, bx))
        down = max(min(ay, by) - bottom, top - max(ay, by))
        if max(across, down) <= farthest:
            edges[matter] = edges[number]
            matter += 1
    return matter


@njit(
    "UniTuple(f8, 3)(Array(f8, 2, 'C', readonly=True), f8[:], f8[:], f8[:], f8, f8)", cache=True, nogil=True
)
def pole(
    whole: Array, window: Array, sides: Array, hold: Array, at_most: float, precision: float
) -> tuple[float, float, float]:
    """Anchor x, y and half side of a largest square within edges (N, 8), to ``precision``.

    The anchor is looked for in ``window`` (left, top, right, bottom), which may have no width or no height;
    the square holds the box ``hold``. One whose half side is ``at_most`` is large enough. The half side is
    -inf when there is none.
    """
    edges = whole.copy()
    count = len(edges)
    left, top = window[0], window[1]
    wide, high = window[2] - left, window[3] - top
    half = max(wide, high) / FIRST_CELLS / 2
    flat, upright = high <= 0.0, wide <= 0.0
    widest = 1 / sides.min()
    cells = np.empty((MOST_CELLS, 2))
    values = np.empty(MOST_CELLS)
    alive = 0
    for column in range(1 if upright else int(np.ceil(wide / (2 * half)))):
        for row in range(1 if flat else int(np.ceil(high / (2 * half)))):
            cells[alive, 0] = left if upright else left + half * (2 * column + 1)
            cells[alive, 1] = top if flat else top + half * (2 * row + 1)
            alive += 1
    best_x, best_y, best = left, top, -np.inf
    all_edges = True
    while True:
        for number in range(alive):
            x, y = cells[number, 0], cells[number, 1]
            value = room(edges, count, x, y, sides, all_edges)
            wanted = need(hold, x, y, sides)
            # Neither changes by more than the anchor moves: no square of this cell holds the box.
            values[number] = value if value + 2 * half >= wanted else -np.inf
            if value > best and value >= wanted:
                best_x, best_y, best = x, y, value
        kept = 0
        for number in range(alive):
            if values[number] + half > best + precision:
                cells[kept, 0], cells[kept, 1] = cells[number, 0], cells[number, 1]
                values[kept] = values[number]
                kept += 1
        if kept == 0 or 4 * kept > MOST_CELLS or best >= at_most or half < precision / 8:
            return best_x, best_y, best
        if best > 2 * half:
            # Every cell that is left lies inside, and only edges that one of them comes near to still matter.
            all_edges = False
            count = that_matter(edges, count, cells, values, kept, half, widest)
        half /= 2
        parts = 2 if flat or upright else 4
        for number in range(kept - 1, -1, -1):
            x, y = cells[number, 0], cells[number, 1]
            for child in range(parts):
                cells[parts * number + child, 0] = x if upright else x + (half if child % 2 else -half)
                below = child % 2 if upright else child > 1
                cells[parts * number + child, 1] = y if flat else y + (half if below else -half)
        alive = parts * kept
