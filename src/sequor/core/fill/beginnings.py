"""Where the patches of a level are first looked for: as those of the coarser one, or along lines."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from sequor.core.fill.blend import Values
from sequor.core.fill.kernels import HALF
from sequor.core.fill.levels import Level

BESIDE = [(r * down, r * across) for r in (1, 2, 3) for down in (-1, 0, 1) for across in (-1, 0, 1)]

NEXT = 8
"""Pixels along a straight thing within which the place is sought that lies best on its line."""


def begin(level: Level, coarser: Level | None, seed: int) -> None:
    """First places and colours: from the coarser level, or at random over a smooth guess."""
    level.cost.fill(0)
    if coarser is None:
        level.guess()
        rows, columns = np.nonzero(level.usable)
        chosen = np.random.default_rng(seed).integers(0, len(rows), len(level.rows))
        level.place(rows[chosen], columns[chosen])
        begin_in_views(level)
        begin_along(level)
        return
    row = np.clip(level.rows // 2, HALF, coarser.hole.shape[0] - HALF - 1)
    column = np.clip(level.columns // 2, HALF, coarser.hole.shape[1] - HALF - 1)
    parent = coarser.number[row, column]
    # At the rim a patch may have no parent just there: the next one has the same way to go.
    for beside_row, beside_column in BESIDE:
        missing = parent < 0
        if not missing.any():
            break
        r = np.clip(row[missing] + beside_row, 0, coarser.hole.shape[0] - 1)
        c = np.clip(column[missing] + beside_column, 0, coarser.hole.shape[1] - 1)
        parent[missing] = coarser.number[r, c]
    parent = np.maximum(parent, 0)
    down = 2 * (coarser.from_row[parent].astype(np.int64) - coarser.rows[parent])
    across = 2 * (coarser.from_column[parent].astype(np.int64) - coarser.columns[parent])
    level.guide[coarser.guide[parent, 2] == 0] = 0
    # A view lies on every line of its vanishing point as it is.
    in_view = coarser.from_row[parent] >= len(coarser.hole)
    straighten(np.where(in_view[:, None], np.float32(0), level.guide), down, across)
    level.place(level.rows + down, level.columns + across)
    if level.views.scale < 1:
        begin_in_views(level)
    level.copy_middles()


def begin_in_views(level: Level) -> None:
    """Let patches come from the first view that shows something where they are."""
    free = np.ones(len(level.rows), np.bool_)
    for top, left, bottom, right, down, across, _ in level.views.table:
        row, column = level.rows + down, level.columns + across
        inside = (
            (row >= top) & (row < bottom) & (column >= left) & (column < min(right, level.usable.shape[1]))
        )
        chosen = np.nonzero(free & inside)[0]
        chosen = chosen[level.usable[row[chosen], column[chosen]]]
        level.from_row[chosen], level.from_column[chosen] = row[chosen], column[chosen]
        free[chosen] = False


def straighten(guide: Values, down: NDArray[np.int64], across: NDArray[np.int64]) -> None:
    """Move the places of patches on straight things onto their lines, in place: half a pixel beside it on a
    coarse level would be many on the finest."""
    on = np.nonzero(guide[:, 2] > 0)[0]
    dx, dy = guide[on, 0].astype(np.float64), guide[on, 1].astype(np.float64)
    ahead = across[on] * dx + down[on] * dy
    least = np.full(len(on), np.inf)
    best = down[on], across[on]
    for step in range(-NEXT, NEXT + 1):
        rows, columns = (
            np.round((ahead + step) * dy).astype(np.int64),
            np.round((ahead + step) * dx).astype(np.int64),
        )
        beside = np.abs(rows * dx - columns * dy) + 1e-3 * abs(step)
        nearer = beside < least
        least = np.where(nearer, beside, least)
        best = np.where(nearer, rows, best[0]), np.where(nearer, columns, best[1])
    down[on], across[on] = best


def begin_along(level: Level) -> None:
    """Let patches on straight things come from where these were last seen, and show it."""
    on = np.nonzero(level.guide[:, 2] > 0)[0]
    row, column = level.rows[on].astype(np.float32), level.columns[on].astype(np.float32)
    for _ in range(max(level.hole.shape)):
        r, c = np.round(row).astype(np.int64), np.round(column).astype(np.int64)
        inside = (r >= 0) & (c >= 0) & (r < level.hole.shape[0]) & (c < level.hole.shape[1])
        there = inside.copy()
        there[inside] = level.usable[r[inside], c[inside]]
        level.from_row[on[there]], level.from_column[on[there]] = r[there], c[there]
        # What is nowhere to be seen is not followed.
        level.guide[on[~inside]] = 0
        on, row, column = on[inside & ~there], row[inside & ~there], column[inside & ~there]
        if not len(on):
            break
        row, column = row - level.guide[on, 1], column - level.guide[on, 0]
    own = level.number[level.at]
    level.copy_to((own >= 0) & (level.guide[own, 2] > 0))
