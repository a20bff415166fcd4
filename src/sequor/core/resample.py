"""A picture through a mapping, row band by row band, once.

The kernel is the Lanczos window with three lobes (C. E. Duchon, *Lanczos Filtering in One and Two
Dimensions*, J. Appl. Meteor. 18, 1979), normalised so that a flat area stays flat. Work is done in the
code values that the file has, like the plain warp it is measured against.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from .mapping import NEAREST_DEPTH, Mapping

Picture = NDArray[np.uint8]

LOBES = 3
PHASES = 1024
BAND_ROWS = 256


def resample(
    picture: Picture,
    mapping: Mapping,
    x: float,
    y: float,
    columns: int,
    rows: int,
    progress: Callable[[float], None] | None = None,
    background: tuple[int, int, int] = (0, 0, 0),
) -> Picture:
    """Render ``rows`` x ``columns`` output pixels of the corrected picture.

    ``picture`` is (height, width, 3) uint8. The centre of output pixel (i, j) lies at
    (x + i + 0.5, y + j + 0.5) in corrected pixels. Pixels outside the photo, or beyond what
    the map shows, get ``background``; within three pixels of its edge the outermost is repeated.
    ``progress`` is called with the share done, after every band.
    """
    # numba takes half a second to load: the first picture waits for it, not every start.
    from .lanczos import render

    source = np.ascontiguousarray(picture)
    out = np.empty((rows, columns, 3), np.uint8)
    table = lanczos_table()
    empty = np.array(background, np.uint8)
    inverse = mapping.inverse
    for top in range(0, rows, BAND_ROWS):
        count = min(BAND_ROWS, rows - top)
        render(source, inverse, 1 / NEAREST_DEPTH, x, y + top, table, empty, out[top : top + count])
        if progress:
            progress((top + count) / rows)
    return out


def lanczos_table() -> NDArray[np.float32]:
    """Kernel weights (PHASES + 1, TAPS) for each sub-pixel phase; every row adds up to 1."""
    phase = np.arange(PHASES + 1)[:, None] / PHASES
    distance = phase - np.arange(1 - LOBES, LOBES + 1)[None]
    weights = np.sinc(distance) * np.sinc(distance / LOBES) * (np.abs(distance) < LOBES)
    table: NDArray[np.float32] = (weights / weights.sum(axis=1, keepdims=True)).astype(np.float32)
    return table
