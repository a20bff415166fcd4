"""Things that are there once: they are not to be there twice.

A table, a landing stage or a face that is copied beside itself is seen at once, however well it fits; leaves
and bricks are not. A patch of a thing is unlike all others that are not near it (S. Goferman, L.
Zelnik-Manor, A. Tal, *Context-Aware Saliency Detection*, IEEE PAMI 34, 2012), and dear to copy by that.
"""

from __future__ import annotations

import cv2
import numpy as np

from sequor.core.fill.blend import Mask, Values
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
    level = seen[-1] if seen else levels[0]
    rare = rarity(*_small(level.image, level.usable[: len(level.hole)]))
    if rare is NOTHING:
        return
    for level in levels:
        size = level.hole.shape[::-1]
        own = np.asarray(cv2.resize(rare, size, interpolation=cv2.INTER_LINEAR), np.float32)
        level.rarity = level.views.spread(own, len(level.canvas))


def _small(image: Values, usable: Mask) -> tuple[Values, Mask]:
    """A picture and where its patches can be copied, no larger than is looked at: a thin hole in a large
    picture has no coarse level, and all patches of a fine one are too many."""
    factor = float(np.sqrt(2 * MOST_PATCHES / usable.size))
    if factor >= 1:
        return image, usable
    size = max(PATCH, int(usable.shape[1] * factor)), max(PATCH, int(usable.shape[0] * factor))
    shares = cv2.resize(usable.astype(np.float32), size, interpolation=cv2.INTER_AREA)
    inside = np.zeros(shares.shape, bool)
    inside[HALF : size[1] - HALF, HALF : size[0] - HALF] = True
    small = cv2.resize(image[: len(usable)], size, interpolation=cv2.INTER_AREA)
    return np.asarray(small), (shares > 0.5) & inside


def rarity(image: Values, usable: Mask) -> Values:
    """How unlike its nearest likeness each patch of an image (h, w, 3) is whose middle is ``usable`` (h, w),
    as a sum of squared differences (h, w), up to twice what is usual; 0 elsewhere. A picture with hardly any
    patches tells nothing."""
    rows, columns = places(usable)
    if len(rows) < LEAST_PATCHES:
        return NOTHING
    height, width = usable.shape
    windows = np.lib.stride_tricks.sliding_window_view(image, (PATCH, PATCH), axis=(0, 1))
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
