"""The largest upright square in a region whose edge is a fine polygon, convex or not; compiled by numba.

In the metric max(|x|, |y|) a square is a ball, so the largest square lies about the point farthest from the
edge. That distance changes by no more than the point moves, so whole cells of a grid can be left out
(P. Hansen, B. Jaumard, *Lipschitz Optimization*, in Handbook of Global Optimization, 1995). Coordinates are
such that the wanted rectangle is a square.
"""

from __future__ import annotations

import numpy as np
from numba import njit, types

from .camera import Array, Indices

POLYGON = types.Array(types.float64, 2, "C", readonly=True)
FIRST_CELLS = 12
MOST_CELLS = 40_000


@njit(
    types.float64(POLYGON, types.float64, types.float64, types.int64[::1], types.int64, types.boolean),
    cache=True,
    nogil=True,
)
def room(polygon: Array, x: float, y: float, edges: Indices, count: int, sign: bool) -> float:
    """Half the side of the largest square about (x, y) that no edge enters; negative outside, if ``sign``.

    ``edges`` names the ``count`` edges of the polygon (N, 2) to look at. An edge and a square are apart along
    one of their three normals (S. Gottschalk, *Separating axis theorem*, TR 96-024, UNC Chapel Hill, 1996).
    """
    last = len(polygon)
    least = np.inf
    inside = False
    for number in range(count):
        here = edges[number]
        there = here + 1 if here + 1 < last else 0
        ax, ay = polygon[here, 0] - x, polygon[here, 1] - y
        bx, by = polygon[there, 0] - x, polygon[there, 1] - y
        apart = max(min(ax, bx), -max(ax, bx), min(ay, by), -max(ay, by))
        dx, dy = bx - ax, by - ay
        size = abs(dx) + abs(dy)
        if size > 0.0:
            apart = max(apart, abs(ax * dy - ay * dx) / size)
        least = min(least, apart)
        if (ay > 0.0) != (by > 0.0) and ax - ay * dx / dy > 0.0:
            inside = not inside
    return least if inside or not sign else -least


@njit(cache=True)
def that_matter(polygon, cells, values, kept, half, edges, count):  # type: ignore[no-untyped-def]
    """Keep the edges that may be nearest to a point of a cell, seen from the box about all cells."""
    left, right = cells[:kept, 0].min() - half, cells[:kept, 0].max() + half
    top, bottom = cells[:kept, 1].min() - half, cells[:kept, 1].max() + half
    farthest = values[:kept].max() + 2 * half
    last = len(polygon)
    matter = 0
    for number in range(count):
        here = edges[number]
        there = here + 1 if here + 1 < last else 0
        ax, ay, bx, by = polygon[here, 0], polygon[here, 1], polygon[there, 0], polygon[there, 1]
        across = max(min(ax, bx) - right, left - max(ax, bx))
        down = max(min(ay, by) - bottom, top - max(ay, by))
        if max(across, down) <= farthest:
            edges[matter] = here
            matter += 1
    return matter


@njit("UniTuple(f8, 3)(Array(f8, 2, 'C', readonly=True), f8)", cache=True, nogil=True)
def pole(polygon: Array, precision: float) -> tuple[float, float, float]:
    """Centre x, y and half side of a largest square in a polygon (N, 2), to ``precision``."""
    total = len(polygon)
    edges = np.arange(total)
    count = total
    left, right = polygon[:, 0].min(), polygon[:, 0].max()
    top, bottom = polygon[:, 1].min(), polygon[:, 1].max()
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
    whole = True
    while True:
        for number in range(alive):
            value = room(polygon, cells[number, 0], cells[number, 1], edges, count, whole)
            values[number] = value
            if value > best:
                best_x, best_y, best = cells[number, 0], cells[number, 1], value
        kept = 0
        for number in range(alive):
            if values[number] + half > best + precision:
                cells[kept, 0], cells[kept, 1], values[kept] = (
                    cells[number, 0],
                    cells[number, 1],
                    values[number],
                )
                kept += 1
        if kept == 0 or 4 * kept > MOST_CELLS:
            return best_x, best_y, best
        if best > 2 * half:
            # Every cell that is left lies inside, and only edges that one of them comes near to still matter.
            whole = False
            count = that_matter(polygon, cells, values, kept, half, edges, count)
        half /= 2
        for number in range(kept - 1, -1, -1):
            x, y = cells[number, 0], cells[number, 1]
            for child in range(4):
                cells[4 * number + child, 0] = x + (half if child % 2 else -half)
                cells[4 * number + child, 1] = y + (half if child > 1 else -half)
        alive = 4 * kept
