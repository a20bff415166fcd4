"""The difference along a seam, spread smoothly over what was filled.

The patches keep their gradients and take on the level of what they border on: the correction is the membrane
with the seam's differences on its edge, the solution of Laplace's equation (P. Pérez, M. Gangnet, A. Blake,
*Poisson Image Editing*, SIGGRAPH 2003, eq. 2 with the guidance field of the source).
"""

from __future__ import annotations

import cv2
import numpy as np
import scipy.sparse
import scipy.sparse.linalg
from numpy.typing import NDArray

Mask = NDArray[np.bool_]
Values = NDArray[np.float32]

CELLS = 300_000
"""So many cells tell nearly enough which usable pixel is the nearest."""

MOST_PIXELS = 60_000
"""The membrane is smooth: a coarser grid than the picture's carries it."""


def membrane(hole: Mask, rim: Mask, difference: Values, most: int = MOST_PIXELS) -> Values:
    """The smooth field (h, w, 3) over a hole (h, w) that has the values ``difference`` (h, w, 3) on its rim.

    Beyond the frame nothing pulls (the derivative across its sides is 0).
    """
    height, width = hole.shape
    factor = max(1, int(np.ceil(np.sqrt(height * width / most))))
    size = (-(-width // factor), -(-height // factor))

    def coarser(values: Values) -> Values:
        return np.asarray(cv2.resize(values, size, interpolation=cv2.INTER_AREA), np.float32)

    weight = coarser(rim.astype(np.float32))
    fixed = weight > 1e-6
    values = coarser(difference * rim[..., None])
    values[fixed] /= weight[fixed][:, None]
    open_ = (coarser(hole.astype(np.float32)) > 0) & ~fixed
    field = np.where(fixed[..., None], values, 0).astype(np.float32)
    if open_.any():
        field[open_] = laplace(open_, fixed, field)
    known = fixed | open_
    if factor == 1:
        return field
    # What is not part of it must not be mixed in on the way back to full size.
    nearest = _nearest(known)
    grown = field[nearest]
    return np.asarray(cv2.resize(grown, (width, height), interpolation=cv2.INTER_LINEAR), np.float32)


def laplace(open_: Mask, fixed: Mask, values: Values) -> Values:
    """The values (n, 3) at the n open pixels of (h, w), each the mean of its neighbours', where the fixed
    ones have ``values`` (h, w, 3). A part that touches nothing fixed is 0."""
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
    matrix = scipy.sparse.csc_matrix((-np.ones(len(i)), (i, j)), (count, count)) + scipy.sparse.diags(degree)
    solution: Values = scipy.sparse.linalg.splu(matrix.tocsc()).solve(right).astype(np.float32)
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
