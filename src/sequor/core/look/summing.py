"""Votes summed along lines, compiled by numba (J. Radon's transform of 1917, over a fan of directions)."""

from __future__ import annotations

import numpy as np
from numba import njit, types

from sequor.core.camera import Array

LEAST_SEEN = 0.55
"""Of the width, how much of a line must lie in the picture."""

SUMS = types.float32[:, :, ::1]


@njit(SUMS(types.float32[:, :, ::1], types.float64[::1]), cache=True)
def _summed(columns, slopes):  # type: ignore[no-untyped-def]
    width, height, channels = columns.shape
    sums = np.zeros((len(slopes), height, channels), np.float32)
    for at in range(len(slopes)):
        seen = np.zeros(height, np.float32)
        for x in range(width):
            down = int(np.floor(slopes[at] * (x + 0.5 - width / 2) + 0.5))
            for middle in range(max(0, 1 - down), min(height, height - 1 - down)):
                seen[middle] += 1
                for channel in range(channels):
                    sums[at, middle, channel] += columns[x, middle + down, channel]
        for middle in range(height):
            if seen[middle] > LEAST_SEEN * width:
                sums[at, middle] /= seen[middle]
            else:
                sums[at, middle] = 0.0
    return sums


def summed(votes: Array, slopes: Array) -> Array:
    """The mean of votes (h, w, channels) along lines (slopes, h, channels), by slope and height at the
    middle."""
    columns = np.ascontiguousarray(votes.transpose(1, 0, 2), np.float32)
    return np.asarray(_summed(columns, np.ascontiguousarray(slopes)))
