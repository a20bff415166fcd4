"""The inner loop of the resampler, compiled by numba; loaded when the first picture is rendered.

Its types are fixed, so that it is compiled when this module is first imported and comes from numba's cache
afterwards; the commands in ``bin`` import it once, for compiling under somebody's hand takes seconds.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit, prange, types
from numpy.typing import NDArray

from sequor.core.camera import Array
from sequor.core.raster.pixels import Codes, Picture
from sequor.core.raster.resample import LOBES, PHASES
from sequor.core.warp.located import locate, on_photo

WARP = (
    types.float64[:, ::1],
    types.float64,
    types.float64[::1],
    types.float64[::1],
    types.float64[:, :, ::1],
)
"""A warp as :class:`sequor.core.warp.locate.Compiled` has it."""

CODES = types.NamedTuple((types.int64, types.int64, types.int64, types.float64), Codes)  # type: ignore[no-untyped-call]

TAPS = 2 * LOBES
LANES = 3 * TAPS

BLOCK = 16
"""Output pixels in a row that share one look at how much the map shrinks there."""

SHRINKS_FROM = 1.1
"""Source pixels for each output pixel from which the kernel is made as wide as the map shrinks."""

WIDEST = 64.0
"""The kernel is made at most so many times as wide."""

MOST_COLUMNS = int(2 * LOBES * WIDEST) + 2

HALF, LOWEST = np.float32(0.5), np.float32(0.0)


@njit(fastmath=True, inline="always")
def widths(inverse, deepest, lens, area, lattice, u, v, px, py):  # type: ignore[no-untyped-def]
    """Source pixels, along x and along y, that an output pixel covers."""
    right, ax, ay = locate(inverse, deepest, lens, area, lattice, u + 1.0, v)
    down, bx, by = locate(inverse, deepest, lens, area, lattice, u, v + 1.0)
    if not (right and down):
        return 1.0, 1.0
    along = np.sqrt((ax - px) ** 2 + (bx - px) ** 2)
    across = np.sqrt((ay - py) ** 2 + (by - py) ** 2)
    return min(max(along, 1.0), WIDEST), min(max(across, 1.0), WIDEST)


@njit(fastmath=True)
def wide(  # type: ignore[no-untyped-def]
    source, codes, px, py, along, across, kernel, by_column, sums, out, j, i
):
    """One pixel through a kernel widened by ``along`` and ``across``; ``by_column`` and ``sums`` are room for
    the weights of its columns, and for what the rows add up to in each."""
    height, width = source.shape[0], source.shape[1] // 3
    highest, clipped_low, clipped_high, _ = codes
    first_x, last_x = int(np.ceil(px - LOBES * along)), int(np.floor(px + LOBES * along))
    first_y, last_y = int(np.ceil(py - LOBES * across)), int(np.floor(py + LOBES * across))
    count = last_x - first_x + 1
    total_x, total_y = np.float32(0.0), np.float32(0.0)
    for a in range(count):
        by_column[a] = kernel[int(abs(first_x + a - px) / along * PHASES + 0.5)]
        total_x += by_column[a]
    whole = first_x >= 0 and last_x < width
    lanes = np.uint64(3 * count)
    for k in range(lanes):
        sums[k] = np.float32(0.0)
    for row in range(first_y, last_y + 1):
        wy = kernel[int(abs(row - py) / across * PHASES + 0.5)]
        total_y += wy
        at = np.uint64(min(max(row, 0), height - 1))
        if whole:
            left = np.uint64(3 * first_x)
            for k in range(lanes):
                sums[k] += wy * source[at, left + k]
        else:
            for a in range(count):
                here = 3 * min(max(first_x + a, 0), width - 1)
                for c in range(3):
                    sums[3 * a + c] += wy * source[at, here + c]
    for c in range(3):
        total = np.float32(0.0)
        for a in range(count):
            total += by_column[a] * sums[3 * a + c]
        value = total / (total_x * total_y)
        low, high = np.float32(highest), LOWEST
        for row in range(int(np.ceil(py - across)), int(np.floor(py + across)) + 1):
            at = np.uint64(min(max(row, 0), height - 1))
            for column in range(int(np.ceil(px - along)), int(np.floor(px + along)) + 1):
                code = np.float32(source[at, 3 * min(max(column, 0), width - 1) + c])
                low, high = min(low, code), max(high, code)
        if low <= high and (value < low or value > high):
            # Beside a clipped edge the picture is no longer band-limited, and the kernel would ring.
            clipped = False
            for row in range(first_y, last_y + 1):
                at = np.uint64(min(max(row, 0), height - 1))
                for column in range(first_x, last_x + 1):
                    code = source[at, 3 * min(max(column, 0), width - 1) + c]
                    clipped |= code <= clipped_low or code >= clipped_high
            if clipped:
                value = min(max(value, low), high)
        out[j, i, c] = min(max(value + HALF, LOWEST), np.float32(highest))


@njit(fastmath=True)
def blend(  # type: ignore[no-untyped-def]
    source, codes, row, at, along_table, x, across_table, y, lanes, clipped, out, j, i
):
    """Pixel (j, i) from the ``TAPS`` x ``TAPS`` source pixels that begin at a row and at a place within it.

    Arrays are handed on whole: a part of one made here would be counted by both threads, which costs more
    than the pixel.
    """
    # Written out, as long as the array says and with indices that cannot be negative: so the compiler takes
    # several lanes at a time.
    w0, w1, w2, w3 = across_table[y, 0], across_table[y, 1], across_table[y, 2], across_table[y, 3]
    w4, w5, w6, w7 = across_table[y, 4], across_table[y, 5], across_table[y, 6], across_table[y, 7]
    x = np.uint64(x)
    top, left, one = np.uint64(row), np.uint64(at), np.uint64(1)
    r1 = top + one
    r2 = r1 + one
    r3 = r2 + one
    r4 = r3 + one
    r5 = r4 + one
    r6 = r5 + one
    r7 = r6 + one
    for k in range(np.uint64(len(lanes))):
        near = left + k
        lanes[k] = along_table[x, k] * (
            w0 * source[top, near]
            + w1 * source[r1, near]
            + w2 * source[r2, near]
            + w3 * source[r3, near]
            + w4 * source[r4, near]
            + w5 * source[r5, near]
            + w6 * source[r6, near]
            + w7 * source[r7, near]
        )
    looked = False
    highest, clipped_low, clipped_high, ringing = codes
    for c in range(3):
        value = np.float32(0.0)
        for a in range(TAPS):
            value += lanes[3 * a + c]
        # Beside a clipped edge the picture is no longer band-limited, and the kernel would ring.
        here = at + 3 * (LOBES - 1) + c
        p, q = source[row + LOBES - 1, here], source[row + LOBES - 1, here + 3]
        s, t = source[row + LOBES, here], source[row + LOBES, here + 3]
        low, high = np.float32(min(p, q, s, t)), np.float32(max(p, q, s, t))
        if value < low - np.float32(ringing) or value > high + np.float32(ringing):
            if not looked:
                look_for_clipped(source, clipped_low, clipped_high, top, left, clipped)
                looked = True
            beside = 0
            for a in range(TAPS):
                beside |= clipped[3 * a + c]
            if beside:
                value = min(max(value, low), high)
        out[j, i, c] = min(max(value + HALF, LOWEST), np.float32(highest))


@njit
def look_for_clipped(source, clipped_low, clipped_high, top, left, clipped):  # type: ignore[no-untyped-def]
    """For each lane whether the camera may have cut off one of the ``TAPS`` source pixels in it."""
    one = np.uint64(1)
    for k in range(np.uint64(len(clipped))):
        low = high = source[top, left + k]
        row = top
        for _ in range(TAPS - 1):
            row += one
            code = source[row, left + k]
            low, high = min(low, code), max(high, code)
        clipped[k] = low <= clipped_low or high >= clipped_high


def _of_depth(code: Any) -> Any:
    """The types of ``render`` for pictures of a depth."""
    return types.void(
        types.Array(code, 2, "C", readonly=True),
        CODES,
        *WARP,
        types.float64,
        types.float64,
        types.float32[:, ::1],
        types.float32[:, ::1],
        types.float32[::1],
        code[::1],
        code[:, :, ::1],
    )


@njit(
    [_of_depth(types.uint8), _of_depth(types.uint16)],
    parallel=True,
    fastmath=True,
    cache=True,
    nogil=True,
)
def render(
    source: Picture,
    codes: Codes,
    inverse: Array,
    deepest: float,
    lens: Array,
    area: Array,
    lattice: Array,
    x: float,
    y: float,
    across_table: NDArray[np.float32],
    along_table: NDArray[np.float32],
    kernel: NDArray[np.float32],
    empty: Picture,
    out: Picture,
) -> None:
    """``source`` is (height, 3 width); ``along_table`` has every weight three times, once for each colour."""
    height, width = source.shape[0], source.shape[1] // 3
    for j in prange(out.shape[0]):
        v = y + j + 0.5
        edge = np.empty((TAPS, LANES), source.dtype)
        lanes = np.empty(LANES, np.float32)
        clipped = np.empty(LANES, np.uint8)
        by_column, sums = np.empty(MOST_COLUMNS, np.float32), np.empty(3 * MOST_COLUMNS, np.float32)
        along, across = 1.0, 1.0
        for i in range(out.shape[1]):
            shown, px, py = on_photo(width, height, inverse, deepest, lens, area, lattice, x + i + 0.5, v)
            if not shown:
                out[j, i, 0], out[j, i, 1], out[j, i, 2] = empty[0], empty[1], empty[2]
                along = 0.0
                continue
            if i % BLOCK == 0 or along == 0.0:
                along, across = widths(inverse, deepest, lens, area, lattice, x + i + 0.5, v, px, py)
            px -= 0.5
            py -= 0.5
            if along > SHRINKS_FROM or across > SHRINKS_FROM:
                wide(source, codes, px, py, along, across, kernel, by_column, sums, out, j, i)
                continue
            column, row = int(np.floor(px)), int(np.floor(py))
            x_phase, y_phase = int((px - column) * PHASES + 0.5), int((py - row) * PHASES + 0.5)
            column -= LOBES - 1
            row -= LOBES - 1
            if column >= 0 and row >= 0 and column + TAPS <= width and row + TAPS <= height:
                blend(
                    source,
                    codes,
                    row,
                    3 * column,
                    along_table,
                    x_phase,
                    across_table,
                    y_phase,
                    lanes,
                    clipped,
                    out,
                    j,
                    i,
                )
                continue
            for b in range(TAPS):
                r = min(max(row + b, 0), height - 1)
                for a in range(TAPS):
                    at = 3 * min(max(column + a, 0), width - 1)
                    for c in range(3):
                        edge[b, 3 * a + c] = source[r, at + c]
            blend(edge, codes, 0, 0, along_table, x_phase, across_table, y_phase, lanes, clipped, out, j, i)


@njit(
    types.void(
        types.float64,
        types.float64,
        *WARP,
        types.float64,
        types.float64,
        types.boolean[:, ::1],
    ),
    parallel=True,
    fastmath=True,
    cache=True,
    nogil=True,
)
def covers(
    width: float,
    height: float,
    inverse: Array,
    deepest: float,
    lens: Array,
    area: Array,
    lattice: Array,
    x: float,
    y: float,
    out: NDArray[np.bool_],
) -> None:
    """Whether a photo of this size shows at each output pixel."""
    for j in prange(out.shape[0]):
        for i in range(out.shape[1]):
            out[j, i] = on_photo(
                width, height, inverse, deepest, lens, area, lattice, x + i + 0.5, y + j + 0.5
            )[0]
