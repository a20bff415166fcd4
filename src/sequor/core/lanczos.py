"""The inner loop of the resampler, compiled by numba; loaded when the first picture is rendered.

Its types are fixed, so that it is compiled when this module is first imported and comes from numba's cache
afterwards; the commands in ``bin`` import it once, for compiling under somebody's hand takes seconds.
"""

from __future__ import annotations

import numpy as np
from numba import njit, prange, types
from numpy.typing import NDArray

from .camera import Array
from .resample import LOBES, PHASES, Picture

TAPS = 2 * LOBES


@njit(
    types.void(
        types.Array(types.uint8, 3, "C", readonly=True),
        types.float64[:, ::1],
        types.float64,
        types.float64,
        types.float64,
        types.float32[:, ::1],
        types.uint8[::1],
        types.uint8[:, :, ::1],
    ),
    parallel=True,
    fastmath=True,
    cache=True,
    nogil=True,
)
def render(
    source: Picture,
    inverse: Array,
    deepest: float,
    x: float,
    y: float,
    table: NDArray[np.float32],
    empty: Picture,
    out: Picture,
) -> None:
    height, width = source.shape[0], source.shape[1]
    half, lowest, highest = np.float32(0.5), np.float32(0.0), np.float32(255.0)
    for j in prange(out.shape[0]):
        v = y + j + 0.5
        near = np.empty((TAPS, TAPS, 3), np.uint8)
        for i in range(out.shape[1]):
            u = x + i + 0.5
            t = inverse[2, 0] * u + inverse[2, 1] * v + inverse[2, 2]
            if t <= 0.0 or t > deepest:
                out[j, i, 0], out[j, i, 1], out[j, i, 2] = empty[0], empty[1], empty[2]
                continue
            d = 1.0 / t
            px = (inverse[0, 0] * u + inverse[0, 1] * v + inverse[0, 2]) * d
            py = (inverse[1, 0] * u + inverse[1, 1] * v + inverse[1, 2]) * d
            if px < 0.0 or py < 0.0 or px > width or py > height:
                out[j, i, 0], out[j, i, 1], out[j, i, 2] = empty[0], empty[1], empty[2]
                continue
            px -= 0.5
            py -= 0.5
            column, row = int(np.floor(px)), int(np.floor(py))
            wx = table[int((px - column) * PHASES + 0.5)]
            wy = table[int((py - row) * PHASES + 0.5)]
            column -= LOBES - 1
            row -= LOBES - 1
            patch = source[row : row + TAPS, column : column + TAPS]
            if column < 0 or row < 0 or column + TAPS > width or row + TAPS > height:
                for b in range(TAPS):
                    r = min(max(row + b, 0), height - 1)
                    for a in range(TAPS):
                        c = min(max(column + a, 0), width - 1)
                        near[b, a, 0], near[b, a, 1], near[b, a, 2] = (
                            source[r, c, 0],
                            source[r, c, 1],
                            source[r, c, 2],
                        )
                patch = near
            red, green, blue = np.float32(0.0), np.float32(0.0), np.float32(0.0)
            for b in range(TAPS):
                r1, g1, b1 = np.float32(0.0), np.float32(0.0), np.float32(0.0)
                for a in range(TAPS):
                    w = wx[a]
                    r1 += w * patch[b, a, 0]
                    g1 += w * patch[b, a, 1]
                    b1 += w * patch[b, a, 2]
                red += wy[b] * r1
                green += wy[b] * g1
                blue += wy[b] * b1
            out[j, i, 0] = min(max(red + half, lowest), highest)
            out[j, i, 1] = min(max(green + half, lowest), highest)
            out[j, i, 2] = min(max(blue + half, lowest), highest)
