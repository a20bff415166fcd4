"""Where a corrected pixel lies on the photo: the compiled form of a warp, for inner loops.

The same map is written in Python in the warps (``to_photo``); the tests hold the two together to 1e-9 px.
"""

from __future__ import annotations

import numpy as np
from numba import njit


@njit(fastmath=True, inline="always")
def locate(inverse, deepest, lens, area, lattice, u, v):  # type: ignore[no-untyped-def]
    """The photo point of a corrected one, and whether the map shows it."""
    if lattice.shape[0] > 0:
        across, down = (u - area[0]) * area[2], (v - area[1]) * area[3]
        columns, rows = lattice.shape[1] - 1, lattice.shape[0] - 1
        if across < 0.0 or down < 0.0 or across > columns or down > rows:
            return False, 0.0, 0.0
        column, row = min(int(across), columns - 1), min(int(down), rows - 1)
        across -= column
        down -= row
        a, b = (1.0 - across) * (1.0 - down), across * (1.0 - down)
        c, d = (1.0 - across) * down, across * down
        px = a * lattice[row, column, 0] + b * lattice[row, column + 1, 0]
        py = a * lattice[row, column, 1] + b * lattice[row, column + 1, 1]
        px += c * lattice[row + 1, column, 0] + d * lattice[row + 1, column + 1, 0]
        py += c * lattice[row + 1, column, 1] + d * lattice[row + 1, column + 1, 1]
        x, y = px - lens[0], py - lens[1]
        return lens[3] <= 0.0 or x * x + y * y <= lens[3], px, py
    t = inverse[2, 0] * u + inverse[2, 1] * v + inverse[2, 2]
    if t <= 0.0 or t > deepest:
        return False, 0.0, 0.0
    d = 1.0 / t
    px = (inverse[0, 0] * u + inverse[0, 1] * v + inverse[0, 2]) * d
    py = (inverse[1, 0] * u + inverse[1, 1] * v + inverse[1, 2]) * d
    if lens[3] > 0.0:
        x, y = (px - lens[0]) * lens[2], (py - lens[1]) * lens[2]
        r2 = x * x + y * y
        if r2 > lens[3]:
            return False, 0.0, 0.0
        grow = 1.0 + r2 * (lens[4] + r2 * (lens[5] + r2 * lens[6]))
        if lens[9] != 0.0 or lens[10] != 0.0:
            grow += np.sqrt(r2) * (lens[9] + r2 * lens[10])
        p1, p2 = lens[7], lens[8]
        px = (x * grow + 2.0 * p1 * x * y + p2 * (r2 + 2.0 * x * x)) / lens[2] + lens[0]
        py = (y * grow + p1 * (r2 + 2.0 * y * y) + 2.0 * p2 * x * y) / lens[2] + lens[1]
    return True, px, py


@njit(fastmath=True, inline="always")
def on_photo(width, height, inverse, deepest, lens, area, lattice, u, v):  # type: ignore[no-untyped-def]
    """Whether a photo of this size shows at a corrected point, and the photo point there."""
    known, px, py = locate(inverse, deepest, lens, area, lattice, u, v)
    return known and px >= 0.0 and py >= 0.0 and px <= width and py <= height, px, py
