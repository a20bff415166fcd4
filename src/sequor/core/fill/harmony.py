"""Pieces that were copied from places of different light, made to meet: each keeps its detail and takes on
the light of where it is.

Sky, mist and water change slowly; two pieces of them that are alike in detail differ in level, and the step
between them is seen. The picture smoothed and the rest of it are told apart (P. J. Burt, E. H. Adelson, *A
Multiresolution Spline with Application to Image Mosaics*, ACM TOG 2, 1983): smoothed, what was filled runs on
across the step, and each pixel is given that in place of its source's own.
"""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.fill.blend import Values, sampled
from sequor.core.fill.kernels import HALF
from sequor.core.fill.levels import Level

Places = NDArray[np.integer[Any]]

CELLS = 250_000
"""The picture smoothed is carried by so many cells at most."""
SMOOTHED = 9.0
"""Cells about which it is smoothed."""
MOST = 30.0
"""Code values from which on a difference is one of things, and not of light."""
EDGE = cv2.BORDER_REPLICATE


class Harmony:
    """What the pixels of a filled level are to be changed by."""

    def __init__(self, level: Level) -> None:
        self._level = level
        height, width = level.hole.shape
        self._factor = max(1.0, float(np.sqrt(height * width / CELLS)))
        size = max(1, round(width / self._factor)), max(1, round(height / self._factor))
        small = (
            level.image if self._factor == 1 else cv2.resize(level.image, size, interpolation=cv2.INTER_AREA)
        )
        self._light = np.asarray(cv2.GaussianBlur(small, (0, 0), SMOOTHED, borderType=EDGE), np.float32)

    def at(self, rows: Places, columns: Places) -> Values:
        """By how much (n, 3) the colours that these pixels were given are to change."""
        level = self._level
        height, width = level.hole.shape
        own = level.number[np.clip(rows, HALF, height - HALF - 1), np.clip(columns, HALF, width - HALF - 1)]
        has = own >= 0
        k = own[has]
        rows, columns = rows[has], columns[has]
        from_row, from_column = level.views.origins(
            rows + level.from_row[k] - level.rows[k], columns + level.from_column[k] - level.columns[k]
        )
        there = sampled(self._light, (rows, columns), self._factor) - sampled(
            self._light, (from_row, from_column), self._factor
        )
        share = np.maximum(1 - (np.abs(there).max(axis=1, keepdims=True) / MOST) ** 2, 0) ** 2
        out = np.zeros((len(own), 3), np.float32)
        out[has] = there * share
        return out
