"""The largest upright square in a region whose edge is a fine polygon, convex or not; compiled by numba.

In the metric max(|x|, |y|) a square is a ball, so the largest square lies about the point farthest from the
edge. That distance changes by no more than the point moves, so whole cells of a grid can be left out
(P. Hansen, B. Jaumard, *Lipschitz Optimization*, in Handbook of Global Optimization, 1995). Coordinates are
such that the wanted rectangle is a square.
"""

from __future__ import annotations

import numpy as np
from numba import njit, types

from .camera import Array

EDGES = types.Array(types.float64, 2, "C", readonly=True)
FIRST_CELLS = 8
MOST_CELLS = 40_000


def edges_of(polygon: Array) -> Array:
    """The edges (N, 7) of a polygon (N, 2): both ends, the way between them, 1 / (|x| + |y|) of that."""
    following = np.roll(polygon, -1, axis=0)
    way = following - polygon
    size = np.abs(way).sum(axis=1)
    return np.column_stack([polygon, following, way, 1 / np.maximum(size, 1e-300)])


@njit(types.float64(EDGES, types.int64, types.float64, types.float64, types.boolean), cache=True, nogil=True)
def room(edges: Array, count: int, x: float, y: float, sign: bool) -> float:
    """Half the side of the largest square about (x, y) that none of the first ``count`` edges enters.

    Negative outside, if ``sign``. An edge and a square are apart along one of their three normals
    (S. Gottschalk, *Separating axis theorem*, TR 96-024, UNC Chapel Hill, 1996).
    """
    least = np.inf
    inside = False
    for number in range(count):
        ax, ay = edges[number, 0] - x, edges[number, 1] - y
        bx, by = edges[number, 2] - x, edges[number, 3] - y
        dx, dy = edges[number, 4], edges[number, 5]
        across = ax * dy - ay * dx
        apart = abs(across) * edges[number, 6]
        apart = max(apart, min(ax, bx), -max(ax, bx), min(ay, by), -max(ay, by))
        least = min(least, apart)
        inside ^= ((ay > 0.0) != (by > 0.0)) & ((across > 0.0) == (dy > 0.0))
    return least if inside or not sign else -least


@njit(cache=True)
def that_matter(edges, count, cells, values, kept, half):  # type: ignore[no-untyped-def]
    """Move the edges that may be nearest to a point of a cell to the front; how many they are."""
    left, right = cells[:kept, 0].min() - half, cells[:kept, 0].max() + half
    top, bottom = cells[:kept, 1].min() - half, cells[:kept, 1].max() + half
    farthest = values[:kept].max() + 2 * half
    matter = 0
    for number in range(count):
        ax, ay, bx, by = edges[number, 0], edges[number, 1], edges[number, 2], edges[number, 3]
        across = max(min(ax, bx) - right, left - max(ax, bx))
        down = max(min(ay, by) - bottom, top - max(ay, by))
        if max(across, down) <= farthest:
            edges[matter] = edges[number]
            matter += 1
    return matter


@njit("UniTuple(f8, 3)(Array(f8, 2, 'C', readonly=True), f8)", cache=True, nogil=True)
def pole(whole: Array, precision: float) -> tuple[float, float, float]:
    """Centre x, y and half side of a largest square within edges (N, 7), to ``precision``."""
    edges = whole.copy()
    count = len(edges)
    left, right = edges[:, 0].min(), edges[:, 0].max()
    top, bottom = edges[:, 1].min(), edges[:, 1].max()
    half = max(right - left, bottom - top) / FIRST_CELLS / 2
    cells = np.empty((MOST_CELLS, 2))
    values = np.empty(MOST_CELLS)
    alive = 0
    for column in range(int(np.ceil((right - left) / (2 * half)))):
        for row in range(int(np.ceil((bottom - top) / (2 * half)))):
            cells[alive, 0] = left + half * (2 * column + 1)
            cells[alive, 1] = top + half * (2 * row + 1)
            alive += 1
    best_x, best_y, best = 0.0, 0.0, -np.inf
    all_edges = True
    while True:
        for number in range(alive):
            value = room(edges, count, cells[number, 0], cells[number, 1], all_edges)
            values[number] = value
            if value > best:
                best_x, best_y, best = cells[number, 0], cells[number, 1], value
        kept = 0
        for number in range(alive):
            if values[number] + half > best + precision:
                cells[kept, 0], cells[kept, 1] = cells[number, 0], cells[number, 1]
                values[kept] = values[number]
                kept += 1
        if kept == 0 or 4 * kept > MOST_CELLS:
            return best_x, best_y, best
        if best > 2 * half:
            # Every cell that is left lies inside, and only edges that one of them comes near to still matter.
            all_edges = False
            count = that_matter(edges, count, cells, values, kept, half)
        half /= 2
        for number in range(kept - 1, -1, -1):
            x, y = cells[number, 0], cells[number, 1]
            for child in range(4):
                cells[4 * number + child, 0] = x + (half if child % 2 else -half)
                cells[4 * number + child, 1] = y + (half if child > 1 else -half)
        alive = 4 * kept
