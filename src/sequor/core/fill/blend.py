"""The difference along a seam, spread smoothly over what was filled.

The patches keep their gradients and take on the level of what they border on: the correction is the membrane
with the seam's differences on its edge, the solution of Laplace's equation (P. Pérez, M. Gangnet, A. Blake,
*Poisson Image Editing*, SIGGRAPH 2003, eq. 2 with the guidance field of the source).
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

Mask = NDArray[np.bool_]
Values = NDArray[np.float32]
Indices = tuple[NDArray[np.integer], NDArray[np.integer]]

CELLS = 300_000
"""So many cells tell nearly enough which usable pixel is the nearest."""

MOST_PIXELS = 10_000
"""The membrane is smooth: a coarser grid than the picture's carries it."""

SMOOTHED = 5
ROW = 4096
EDGE = cv2.BORDER_REPLICATE


def membrane(
    shape: tuple[int, int], at: Indices, rim: Indices, difference: Values, most: int = MOST_PIXELS
) -> Values:
    """The smooth field that has the values ``difference`` (m, 3) on a rim, at the pixels of a hole, (n, 3).

    ``at`` (2, n) and ``rim`` (2, m) are their rows and columns in a picture of ``shape`` (h, w); beyond it
    nothing pulls (the derivative across its sides is 0). What single pixels along the rim differ by, grain,
    is averaged over about ``SMOOTHED`` of them and not spread.
    """
    factor = max(1, int(np.ceil(np.sqrt(shape[0] * shape[1] / most))))
    size = (-(-shape[0] // factor), -(-shape[1] // factor))
    cells = size[0] * size[1]
    of_hole, of_rim = ((rows // factor) * size[1] + columns // factor for rows, columns in (at, rim))
    weight = np.bincount(of_rim, minlength=cells).astype(np.float32).reshape(size)
    sums = [np.bincount(of_rim, difference[:, k], cells).astype(np.float32).reshape(size) for k in range(3)]
    values = np.stack(sums, axis=-1)
    fixed = weight > 0
    around = SMOOTHED // factor | 1
    weight = np.asarray(cv2.blur(weight, (around, around)), np.float32)
    values = np.asarray(cv2.blur(values, (around, around)), np.float32)
    field = np.where(fixed[..., None], values / np.maximum(weight, 1e-9)[..., None], 0).astype(np.float32)
    open_ = np.zeros(cells, np.bool_)
    open_[of_hole] = True
    open_ = open_.reshape(size) & ~fixed
    if open_.any():
        field[open_] = laplace(open_, fixed, field)
    # What is not part of it must not be mixed in on the way back to full size.
    return sampled(field[_nearest(fixed | open_)], at, factor)


def sampled(field: Values, at: Indices, factor: float) -> Values:
    """A field on cells of ``factor`` pixels at some pixels (2, n), bilinear: (n, 3)."""
    places = [((one + 0.5) / factor - 0.5).astype(np.float32) for one in at]
    # OpenCV takes maps of at most 32,766 columns.
    count = len(places[0])
    rows, columns = (np.pad(one, (0, -count % ROW)).reshape(-1, ROW) for one in places)
    found = np.concatenate(
        [
            cv2.remap(field, columns[top : top + ROW], rows[top : top + ROW], cv2.INTER_LINEAR, None, EDGE)
            for top in range(0, len(rows), ROW)
        ]
    )
    return np.asarray(found.reshape(-1, 3)[:count], np.float32)


def laplace(open_: Mask, fixed: Mask, values: Values) -> Values:
    """The values (n, 3) at the n open pixels of (h, w), each the mean of its neighbours', where the fixed
    ones have ``values`` (h, w, 3). A part that touches nothing fixed is 0."""
    from scipy.sparse import csc_matrix, diags  # heavy, and needed for a fill alone
    from scipy.sparse.linalg import splu

    rows, columns = np.nonzero(open_)
    count = len(rows)
    number = np.full(open_.shape, -1)
    number[rows, columns] = np.arange(count)
    degree, right = np.full(count, 1e-9), np.zeros((count, 3))
    entries = []
    for down, across in ((0, 1), (1, 0), (0, -1), (-1, 0)):
        r, c = rows + down, columns + across
        inside = (r >= 0) & (c >= 0) & (r < open_.shape[0]) & (c < open_.shape[1])
        r, c = np.where(inside, r, 0), np.where(inside, c, 0)
        free, bound = inside & open_[r, c], inside & fixed[r, c]
        degree += free
        degree += bound
        entries.append((np.nonzero(free)[0], number[r[free], c[free]]))
        right[bound] += values[r[bound], c[bound]]
    i, j = (np.concatenate([one[side] for one in entries]) for side in (0, 1))
    matrix = csc_matrix((-np.ones(len(i)), (i, j)), (count, count)) + diags(degree)
    solution: Values = splu(matrix.tocsc()).solve(right).astype(np.float32)
    return solution


def nearest_usable(
    usable: Mask, rows: NDArray[np.integer], columns: NDArray[np.integer]
) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """For some pixels a usable one near by: the middle of the nearest cell of which all is usable, else the
    nearest itself."""
    height, width = usable.shape
    cell = int(np.clip(np.sqrt(height * width / CELLS), 1, min(height, width) / 8))
    whole = usable[: height // cell * cell, : width // cell * cell]
    cells: Mask = np.asarray(whole.reshape(height // cell, cell, width // cell, cell).all(axis=(1, 3)))
    if cell == 1 or not cells.any():
        cell, cells = 1, usable
    nearest = _nearest(cells)
    at = np.minimum(rows // cell, cells.shape[0] - 1), np.minimum(columns // cell, cells.shape[1] - 1)
    return nearest[0][at] * cell + cell // 2, nearest[1][at] * cell + cell // 2


def _nearest(known: Mask) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """For every pixel the row and the column of the nearest known one."""
    _, labels = cv2.distanceTransformWithLabels(
        (~known).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    rows, columns = np.nonzero(known)
    of_label = np.zeros(int(labels.max()) + 1, np.intp)
    of_label[labels[rows, columns]] = np.arange(len(rows))
    return rows[of_label[labels]], columns[of_label[labels]]
