"""The inverse of a displaced plane, compiled: Newton's method for many points, each begun beside the last.

Its types are fixed, so that it is compiled when this module is first imported; the commands in ``bin`` do
that."""

from __future__ import annotations

import numpy as np
from numba import njit, types

ROUNDS = 40
NEAR = 1e-9
LEAST_DET = 0.05
FARTHEST_STEP = 2.0


@njit(cache=True, inline="always")
def _splines(t, value, slope):  # type: ignore[no-untyped-def]
    square, left = t * t, 1.0 - t
    value[0], value[1] = left * left * left / 6.0, (3.0 * square * t - 6.0 * square + 4.0) / 6.0
    value[2], value[3] = (3.0 * (square + t - square * t) + 1.0) / 6.0, square * t / 6.0
    slope[0], slope[1] = -left * left / 2.0, (3.0 * square - 4.0 * t) / 2.0
    slope[2], slope[3] = (2.0 * t - 3.0 * square + 1.0) / 2.0, square / 2.0


@njit(
    types.void(
        types.float64,
        types.float64,
        types.float64,
        types.float64[:, :, ::1],
        types.float64,
        types.float64[:, ::1],
        types.float64[:, ::1],
    ),
    cache=True,
    nogil=True,
)
def inverted(left, top, cell, weights, beyond, wanted, out):  # type: ignore[no-untyped-def]
    """The points whose displaced place is ``wanted`` (N, 2), into ``out`` (N, 2); NaN where none is found."""
    rows, columns = weights.shape[0] - 3, weights.shape[1] - 3
    across, across_slope, down, down_slope = np.empty(4), np.empty(4), np.empty(4), np.empty(4)
    off_x, off_y = 0.0, 0.0
    for index in range(len(wanted)):
        x, y = wanted[index, 0] - off_x, wanted[index, 1] - off_y
        found = False
        for _attempt in range(2):
            for _ in range(ROUNDS):
                u, v = (x - left) / cell, (y - top) / cell
                column = min(max(int(np.floor(u)), 0), columns - 1)
                row = min(max(int(np.floor(v)), 0), rows - 1)
                u, v = u - column, v - row
                held_u, held_v = min(max(u, -beyond), 1.0 + beyond), min(max(v, -beyond), 1.0 + beyond)
                _splines(held_u, across, across_slope)
                _splines(held_v, down, down_slope)
                dx, dy, xx, xy, yx, yy = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
                for j in range(4):
                    for i in range(4):
                        wx, wy = weights[row + j, column + i, 0], weights[row + j, column + i, 1]
                        by = across[i] * down[j]
                        dx += by * wx
                        dy += by * wy
                        by = across_slope[i] * down[j]
                        xx += by * wx
                        yx += by * wy
                        by = across[i] * down_slope[j]
                        xy += by * wx
                        yy += by * wy
                a = 1.0 + (xx / cell if held_u == u else 0.0)
                b = xy / cell if held_v == v else 0.0
                c = yx / cell if held_u == u else 0.0
                d = 1.0 + (yy / cell if held_v == v else 0.0)
                off_x, off_y = wanted[index, 0] - x - dx, wanted[index, 1] - y - dy
                det = a * d - b * c
                if abs(det) < LEAST_DET:
                    det = LEAST_DET
                step_x, step_y = (d * off_x - b * off_y) / det, (a * off_y - c * off_x) / det
                most = FARTHEST_STEP * cell
                step_x, step_y = min(max(step_x, -most), most), min(max(step_y, -most), most)
                x += step_x
                y += step_y
                if abs(step_x) + abs(step_y) < NEAR * cell:
                    found = True
                    break
            if found:
                break
            x, y = wanted[index, 0], wanted[index, 1]
        if found:
            out[index, 0], out[index, 1] = x, y
            off_x, off_y = wanted[index, 0] - x, wanted[index, 1] - y
        else:
            out[index, 0], out[index, 1] = np.nan, np.nan
            off_x, off_y = 0.0, 0.0
