"""The inner loops of patch-based completion, compiled by numba.

Every patch about a pixel of the hole or its rim has a place in the known picture that looks like it.
``search`` makes these places better, ``vote`` lets the patches that cover a pixel agree on its colour.
Patches are 7 x 7 pixels; rows and columns name their middles.

C. Barnes, E. Shechtman, A. Finkelstein, D. B. Goldman, *PatchMatch: A Randomized Correspondence Algorithm for
Structural Image Editing*, SIGGRAPH 2009. Y. Wexler, E. Shechtman, M. Irani, *Space-Time Completion of Video*,
IEEE PAMI 29 (2007).
"""

from __future__ import annotations

import numpy as np
from numba import njit, prange, types

HALF = 3
PATCH = 2 * HALF + 1

IMAGE = types.float32[:, :, ::1]
LIST = types.int32[::1]
COSTS = types.float32[::1]

BESIDE = np.float32(1500.0)
"""What it costs a guided patch to come from a pixel beside its line."""

ALONG = 4
"""Places along its line that a guided patch tries in every round."""

BANDS = 16
"""Lists are worked on in so many parts at once; what one part sees of another is as it was before, so that
the same seed gives the same places, however many threads there are."""


@njit(inline="always", fastmath=True)
def price(r, c, row, column, weight, guide, detail, wanted, dear, views):  # type: ignore[no-untyped-def]
    """What a place costs for lying so far away, with a ``guide`` for lying beside its line above all; and for
    having less detail about it than is wanted, and what it costs itself. A view lies where it is a view
    of."""
    rows, columns = r - row, c - column
    for view in range(len(views)):
        if views[view, 0] <= r < views[view, 2] and views[view, 1] <= c < views[view, 3]:
            rows -= views[view, 4]
            columns -= views[view, 5]
            weight = max(weight, np.float32(views[view, 6]))
    cost = weight * (rows * rows + columns * columns)
    if guide[2] > 0:
        beside = rows * guide[0] - columns * guide[1]
        cost += guide[2] * BESIDE * beside * beside
    if detail.size > 1:
        missing = max(wanted - detail[r, c], np.float32(0.0))
        cost += missing * missing
    if dear.size > 1:
        cost += dear[r, c]
    return np.float32(cost)


@njit(inline="always", fastmath=True)
def unlike(image, row, column, from_row, from_column, enough):  # type: ignore[no-untyped-def]
    """Sum of squared differences between two patches, or some value of at least ``enough``."""
    total = np.float32(0.0)
    for down in range(-HALF, HALF + 1):
        for across in range(-HALF, HALF + 1):
            for channel in range(3):
                difference = (
                    image[row + down, column + across, channel]
                    - image[from_row + down, from_column + across, channel]
                )
                total += difference * difference
        if total >= enough:
            return total
    return total


@njit(inline="always")
def roll(state):  # type: ignore[no-untyped-def]
    """The next number of Marsaglia's xorshift generator (2003), 32 bits."""
    state ^= state << np.uint32(13)
    state ^= state >> np.uint32(17)
    state ^= state << np.uint32(5)
    return state


@njit(
    types.void(
        IMAGE,
        types.boolean[:, ::1],
        LIST,
        LIST,
        types.int32[:, ::1],
        LIST,
        LIST,
        COSTS,
        types.float32[:, ::1],
        types.float32[:, ::1],
        COSTS,
        types.float32[:, ::1],
        types.int32[:, ::1],
        types.int64,
        types.int64,
        types.float32,
        types.int64,
    ),
    parallel=True,
    fastmath=True,
    cache=True,
    nogil=True,
)
def search(  # type: ignore[no-untyped-def]  # noqa: PLR0915
    image,
    usable,
    rows,
    columns,
    number,
    from_row,
    from_column,
    cost,
    guide,
    detail,
    wanted,
    dear,
    views,
    rounds,
    reach,
    weight,
    seed,
):
    """Better places for the patches of an image (h, w, 3) float32, in so many rounds.

    ``usable`` (h, w) says where a patch may come from. Patch k lies at ``rows[k], columns[k]``; ``number``
    (h, w) is k there and -1 elsewhere. Its place ``from_row[k], from_column[k]`` and what that costs are made
    better as they stand: by what the neighbours found, and at random within ``reach``, less and less far.
    ``guide`` (count, 3) is the direction (x, y) of a line that a patch is on, and how much that counts.
    ``detail`` (h, w) says how much detail there is about a place, ``wanted`` (count,) how much is to be
    about a patch; the square of what is missing is a cost. ``dear`` (h, w) is what a place costs itself. One
    pixel of either says nothing. ``views`` (n, 7) are the boxes beneath the picture that show it otherwise:
    top, left, bottom, right, how far down and across from what each is a view of, and what it costs to come
    from a pixel beside the one that shows the patch's own place, by the square of how far that is.
    """
    height, width = usable.shape
    own_height = number.shape[0]
    count = len(rows)
    for turn in range(rounds):
        before_row, before_column = from_row.copy(), from_column.copy()
        forward = (turn + seed) % 2 == 0
        step = -1 if forward else 1
        for band in prange(BANDS):
            begin, end = count * band // BANDS, count * (band + 1) // BANDS
            state = np.uint32(2654435761) * np.uint32(seed * 131 + turn * 17 + band * 7 + 1) + np.uint32(
                12345
            )
            for index in range(end - begin):
                k = begin + index if forward else end - 1 - index
                row, column = rows[k], columns[k]
                best_row, best_column = from_row[k], from_column[k]
                best = cost[k]
                if turn == 0:
                    best = unlike(image, row, column, best_row, best_column, np.float32(3e38))
                    best += price(
                        best_row, best_column, row, column, weight, guide[k], detail, wanted[k], dear, views
                    )
                for axis in range(2):
                    beside_row = row + (step if axis == 1 else 0)
                    beside_column = column + (step if axis == 0 else 0)
                    if not (0 <= beside_row < own_height and 0 <= beside_column < width):
                        continue
                    j = number[beside_row, beside_column]
                    if j < 0:
                        continue
                    if begin <= j < end:
                        r, c = from_row[j], from_column[j]
                    else:
                        r, c = before_row[j], before_column[j]
                    r, c = r - (beside_row - row), c - (beside_column - column)
                    if not (0 <= r < height and 0 <= c < width and usable[r, c]):
                        continue
                    if r == best_row and c == best_column:
                        continue
                    far = price(r, c, row, column, weight, guide[k], detail, wanted[k], dear, views)
                    found = unlike(image, row, column, r, c, best - far) + far
                    if found < best:
                        best, best_row, best_column = found, r, c
                if guide[k, 2] > 0:
                    for _ in range(ALONG):
                        state = roll(state)
                        ahead = (best_column - column) * guide[k, 0] + (best_row - row) * guide[k, 1]
                        ahead += np.int64(state % np.uint32(2 * reach + 1)) - reach
                        r = row + np.int64(np.round(ahead * guide[k, 1]))
                        c = column + np.int64(np.round(ahead * guide[k, 0]))
                        if 0 <= r < height and 0 <= c < width and usable[r, c]:
                            far = price(r, c, row, column, weight, guide[k], detail, wanted[k], dear, views)
                            found = unlike(image, row, column, r, c, best - far) + far
                            if found < best:
                                best, best_row, best_column = found, r, c
                for view in range(len(views)):
                    r, c = row + views[view, 4], column + views[view, 5]
                    inside = views[view, 0] <= r < views[view, 2] and views[view, 1] <= c < views[view, 3]
                    if inside and c < width and usable[r, c]:
                        far = price(r, c, row, column, weight, guide[k], detail, wanted[k], dear, views)
                        found = unlike(image, row, column, r, c, best - far) + far
                        if found < best:
                            best, best_row, best_column = found, r, c
                wide = reach
                while wide >= 1:
                    state = roll(state)
                    r = best_row + np.int64(state % np.uint32(2 * wide + 1)) - wide
                    state = roll(state)
                    c = best_column + np.int64(state % np.uint32(2 * wide + 1)) - wide
                    if 0 <= r < height and 0 <= c < width and usable[r, c]:
                        far = price(r, c, row, column, weight, guide[k], detail, wanted[k], dear, views)
                        found = unlike(image, row, column, r, c, best - far) + far
                        if found < best:
                            best, best_row, best_column = found, r, c
                    wide //= 2
                from_row[k], from_column[k], cost[k] = best_row, best_column, best


@njit(
    types.void(
        IMAGE,
        LIST,
        LIST,
        types.int32[:, ::1],
        LIST,
        LIST,
        COSTS,
        COSTS,
        types.float32,
        types.float32,
        types.float32[:, ::1],
    ),
    parallel=True,
    fastmath=True,
    cache=True,
    nogil=True,
)
def vote(  # type: ignore[no-untyped-def]
    image, at_row, at_column, number, from_row, from_column, cost, trust, softness, spread, out
):
    """The colours (n, 3) that the patches covering each pixel agree on.

    ``trust`` (count,) weighs a patch, exp(-cost / ``softness``) too, and exp(-d^2 / (2 ``spread``^2)) where
    the pixel lies d from the patch's middle; ``spread`` 0: all of the patch alike.
    """
    height, width = number.shape
    # Farther patches would weigh nothing.
    near = HALF if spread <= 0 or spread >= 1 else HALF - 1
    for k in prange(len(at_row)):
        row, column = at_row[k], at_column[k]
        weights = np.float32(0.0)
        red, green, blue = np.float32(0.0), np.float32(0.0), np.float32(0.0)
        # At the frame's edge only far ones may cover a pixel.
        for reach in range(near, HALF + 1):
            if weights > 0:
                break
            for down in range(-reach, reach + 1):
                for across in range(-reach, reach + 1):
                    r, c = row + down, column + across
                    if not (0 <= r < height and 0 <= c < width):
                        continue
                    j = number[r, c]
                    if j < 0:
                        continue
                    weight = np.exp(-cost[j] / softness) * trust[j]
                    if spread > 0:
                        weight *= np.exp(-np.float32(down * down + across * across) / (2 * spread * spread))
                    weight += np.float32(1e-20)
                    y, x = from_row[j] - down, from_column[j] - across
                    red += weight * image[y, x, 0]
                    green += weight * image[y, x, 1]
                    blue += weight * image[y, x, 2]
                    weights += weight
        if weights > 0:
            out[k, 0], out[k, 1], out[k, 2] = red / weights, green / weights, blue / weights
