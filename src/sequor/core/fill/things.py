"""Things that are there once: they are not to be there twice.

A table, a landing stage or a face that is copied beside itself is seen at once, however well it fits; leaves
and bricks are not. A patch of a thing is unlike all others that are not near it (S. Goferman, L.
Zelnik-Manor, A. Tal, *Context-Aware Saliency Detection*, IEEE PAMI 34, 2012), and dear to copy by that.
"""

from __future__ import annotations

import cv2
import numpy as np

from sequor.core.fill.blend import Values
from sequor.core.fill.kernels import HALF, PATCH
from sequor.core.fill.levels import NOTHING, Level, places

MOST_PATCHES = 3000
"""A level of at most twice so many pixels is looked at; its patches are compared with so many."""
LEAST_PATCHES = 50

APART = 0.12
"""Shares of the picture's larger side within which a patch is no other one."""

RAREST = 2.0
"""Times as rare as half of what can be copied: rarer than that does not matter. Leaves before a bright sky
are no thing."""

KEPT = 24
"""Principal components by which patches are compared."""
AT_ONCE = 1000
"""So many are compared at once, for the memory's sake."""


def mark_things(levels: list[Level]) -> None:
    """Tell levels, coarsest first, how rare what can be copied is, by what one of the coarsest shows."""
    if not levels:
        return
    seen = [level for level in levels if level.hole.size <= 2 * MOST_PATCHES]
    rare = rarity(seen[-1] if seen else levels[0])
    if rare is NOTHING:
        return
    for level in levels:
        size = level.hole.shape[::-1]
        own = np.asarray(cv2.resize(rare, size, interpolation=cv2.INTER_LINEAR), np.float32)
        level.rarity = level.views.spread(own, len(level.canvas))


def rarity(level: Level) -> Values:
    """How unlike its nearest likeness each usable patch of a level is, (h, w), as a sum of squared
    differences, up to twice what is usual; 0 elsewhere. A picture with hardly any patches tells nothing."""
    rows, columns = places(level.usable[: len(level.hole)])
    if len(rows) < LEAST_PATCHES:
        return NOTHING
    height, width = level.hole.shape
    windows = np.lib.stride_tricks.sliding_window_view(level.image, (PATCH, PATCH), axis=(0, 1))
    patches = windows[rows - HALF, columns - HALF].reshape(len(rows), -1)
    patches = patches - patches.mean(axis=0)
    _, ways = np.linalg.eigh(patches.T @ patches)
    short = patches @ ways[:, -KEPT:]
    square = (short**2).sum(axis=1)
    others = slice(None, None, -(-len(rows) // MOST_PATCHES))
    near = (APART * max(height, width)) ** 2
    least = np.zeros(len(rows), np.float32)
    for first in range(0, len(rows), AT_ONCE):
        some = slice(first, first + AT_ONCE)
        unlike = square[some, None] + square[None, others] - 2 * short[some] @ short[others].T
        apart = (rows[some, None] - rows[None, others]) ** 2 + (
            columns[some, None] - columns[None, others]
        ) ** 2
        unlike[apart < near] = np.inf
        least[some] = np.maximum(unlike.min(axis=1), 0)
    # What has no other one that is not near it tells nothing.
    least[~np.isfinite(least)] = 0
    least = np.minimum(least, RAREST * np.median(least))
    out = np.zeros((height, width), np.float32)
    out[rows, columns] = least
    return out
