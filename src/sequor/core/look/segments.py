"""Straight things of a picture, found by themselves: what a reshaped picture keeps straight.

By the detector of R. Grompone von Gioi, J. Jakubowicz, J.-M. Morel and G. Randall (*LSD: A Fast Line Segment
Detector with a False Detection Control*, IEEE PAMI 32, 2010), as OpenCV has it. They serve the mesh only.
"""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from sequor.core.camera import Array
from sequor.core.raster.pixels import Picture

SHORTEST = 0.03
"""Of the longer side: what is shorter is no line."""

MOST = 60
"""So many are kept, the longest."""

BORDER = 0.02
"""Of the longer side: what keeps so near to the border is the border of a scan, or cannot leave it."""


def find_segments(picture: Picture) -> Array:
    """The ends (N, 2, 2) of straight things in a picture (h, w, 3), in its pixels, the longest first."""
    grey = np.asarray(cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY), np.uint8)
    found: Any = cv2.createLineSegmentDetector().detect(grey)[0]
    if found is None:
        return np.zeros((0, 2, 2))
    # OpenCV counts from pixel centres.
    ends = np.asarray(found, np.float64).reshape(-1, 2, 2) + 0.5
    longer = max(grey.shape)
    lengths = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
    inside = np.minimum(ends, [grey.shape[1], grey.shape[0]] - ends).min(axis=2).max(axis=1)
    chosen = (lengths >= SHORTEST * longer) & (inside >= BORDER * longer)
    return np.asarray(ends[chosen][np.argsort(-lengths[chosen], kind="stable")][:MOST])
