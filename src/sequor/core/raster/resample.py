"""A picture through a warp, row band by row band, once.

The kernel is the Lanczos window with four lobes (C. E. Duchon, *Lanczos Filtering in One and Two
Dimensions*, J. Appl. Meteor. 18, 1979), normalised so that a flat area stays flat. Where the map shrinks, it
is made wider by as much, which keeps out what the output could not show; beside clipped pixels it is kept
from ringing. Work is done in the code values that the file has, like the plain warp it is measured against.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Array
from sequor.core.raster.pixels import Picture, codes_of
from sequor.core.warp.base import Warp

LOBES = 4
PHASES = 1024
BAND_ROWS = 256


def resample(
    picture: Picture,
    warp: Warp,
    x: float,
    y: float,
    columns: int,
    rows: int,
    progress: Callable[[float], None] | None = None,
    background: tuple[int, int, int] = (0, 0, 0),
) -> Picture:
    """Render ``rows`` x ``columns`` output pixels of the corrected picture.

    ``picture`` is (height, width, 3), uint8 or uint16. The centre of output pixel (i, j) lies at
    (x + i + 0.5, y + j + 0.5) in corrected pixels. Pixels outside the photo, or beyond what
    the map shows, get ``background``, given in 8 bits; within four pixels of its edge the outermost is
    repeated. ``progress`` is called with the share done, after every band.
    """
    # numba takes half a second to load: the first picture waits for it, not every start.
    from sequor.core.raster.lanczos import render

    source = np.ascontiguousarray(picture).reshape(len(picture), -1)
    out = np.empty((rows, columns, 3), picture.dtype)
    codes, compiled = codes_of(picture), warp.compiled()
    across = lanczos_table()
    along = np.repeat(across, 3, axis=1)
    empty = np.array(background, np.uint8).astype(picture.dtype) * (codes.highest // 255)
    for top in range(0, rows, BAND_ROWS):
        count = min(BAND_ROWS, rows - top)
        band = out[top : top + count]
        render(source, codes, *compiled, x, y + top, across, along, lanczos_kernel(), empty, band)
        if progress:
            progress((top + count) / rows)
    return out


def shown(warp: Warp, x: float, y: float, columns: int, rows: int) -> NDArray[np.bool_]:
    """For each of those output pixels whether the photo shows there, (rows, columns): not the background."""
    from sequor.core.raster.lanczos import covers

    out = np.empty((rows, columns), np.bool_)
    covers(float(warp.width), float(warp.height), *warp.compiled(), x, y, out)
    return out


def lanczos_table() -> NDArray[np.float32]:
    """Kernel weights (PHASES + 1, TAPS) for each sub-pixel phase; every row adds up to 1."""
    phase = np.arange(PHASES + 1)[:, None] / PHASES
    weights = _lanczos(phase - np.arange(1 - LOBES, LOBES + 1)[None])
    table: NDArray[np.float32] = (weights / weights.sum(axis=1, keepdims=True)).astype(np.float32)
    return table


def lanczos_kernel() -> NDArray[np.float32]:
    """The kernel itself (LOBES * PHASES + 2,), from its middle outwards, ``PHASES`` steps a pixel."""
    return _lanczos(np.arange(LOBES * PHASES + 2) / PHASES).astype(np.float32)


def _lanczos(distance: Array) -> Array:
    weights: Array = np.sinc(distance) * np.sinc(distance / LOBES) * (np.abs(distance) < LOBES)
    return weights
