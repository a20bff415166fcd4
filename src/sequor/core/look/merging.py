"""Pieces of one straight edge put together, compiled by numba: detectors break an edge wherever something
crosses it."""

from __future__ import annotations

import numpy as np
from numba import njit, types

from sequor.core.camera import Array

ROUNDS = 3


@njit(cache=True)
def fitted(ends, lengths, members, tx, ty):  # type: ignore[no-untyped-def]
    """The middle of some pieces and their common direction, by total least squares of their ends, the long
    ones counting more; the direction is the one nearer to (tx, ty)."""
    sw = sx = sy = xx = xy = yy = 0.0
    for j in members:
        for end in (0, 2):
            u, v, w = ends[j, end], ends[j, end + 1], lengths[j]
            sw += w
            sx += w * u
            sy += w * v
            xx += w * u * u
            xy += w * u * v
            yy += w * v * v
    cx, cy = sx / sw, sy / sw
    angle = 0.5 * np.arctan2(2 * (xy / sw - cx * cy), xx / sw - cx * cx - (yy / sw - cy * cy))
    ux, uy = np.cos(angle), np.sin(angle)
    if ux * tx + uy * ty < 0:
        return cx, cy, -ux, -uy
    return cx, cy, ux, uy


LINES = types.Tuple((types.float64[:, ::1], types.float64[::1]))  # type: ignore[no-untyped-call]


@njit(
    LINES(
        types.float64[:, ::1],
        types.float64[::1],
        types.float64[:, ::1],
        types.float64,
        types.float64,
        types.float64,
    ),
    cache=True,
    nogil=True,
)
def merge(
    ends: Array, lengths: Array, ways: Array, reach: float, across: float, turn: float
) -> tuple[Array, Array]:
    """Greedy, the longest first: pieces within ``across`` pixels, ``turn`` radians and gaps of ``reach``
    pixels become one line, fitted to their ends by length. ``ends`` (N, 4), ``ways`` (N, 2) of length 1, all
    longest first.

    The ends (M, 4) of the lines, and how much of each is covered by pieces (M,).
    """
    count = len(lengths)
    free = np.ones(count, np.bool_)
    mine = np.zeros(count, np.int64)
    merged, support = np.zeros((count, 4)), np.zeros(count)
    made = 0
    for first in range(count):
        if not free[first]:
            continue
        free[first] = False
        mine[0], members = first, 1
        x, y = ends[first, 0], ends[first, 1]
        tx, ty, low, high, total = ways[first, 0], ways[first, 1], 0.0, lengths[first], lengths[first]
        for _ in range(ROUNDS):
            before = members
            for j in range(count):
                if not free[j] or abs(ways[j, 1] * tx - ways[j, 0] * ty) > turn + 1.0 / lengths[j]:
                    continue
                start = (ends[j, 0] - x) * tx + (ends[j, 1] - y) * ty
                stop = (ends[j, 2] - x) * tx + (ends[j, 3] - y) * ty
                if max(start, stop) < low - reach or min(start, stop) > high + reach:
                    continue
                one = (ends[j, 1] - y) * tx - (ends[j, 0] - x) * ty
                other = (ends[j, 3] - y) * tx - (ends[j, 2] - x) * ty
                beyond = max(0.0, low - min(start, stop), max(start, stop) - high)
                if max(abs(one), abs(other)) > across + 0.004 * beyond:
                    continue
                free[j] = False
                mine[members] = j
                members += 1
                total += lengths[j]
            if members == before:
                break
            cx, cy, tx, ty = fitted(ends, lengths, mine[:members], tx, ty)
            low, high = 1e18, -1e18
            for k in range(members):
                j = mine[k]
                for end in (0, 2):
                    along = (ends[j, end] - cx) * tx + (ends[j, end + 1] - cy) * ty
                    low, high = min(low, along), max(high, along)
            x, y = cx + low * tx, cy + low * ty
            high -= low
            low = 0.0
        merged[made, 0], merged[made, 1] = x, y
        merged[made, 2], merged[made, 3] = x + high * tx, y + high * ty
        support[made] = min(total, high)
        made += 1
    return merged[:made].copy(), support[:made].copy()
