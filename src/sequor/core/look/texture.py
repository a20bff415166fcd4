"""Whether a picture is one texture from border to border: bricks, a weave, grass. Its straight things run as
the camera was held to it, which need not be level."""

from __future__ import annotations

import itertools

import cv2
import numpy as np
from numpy.typing import NDArray

SIDE = 640
PATCHES = 6
"""So many patches across and down."""

ALIKE_IN_EDGES, ALIKE_IN_LIGHT = 0.16, 0.25
"""The spread among the patches of how strong their edges are, over their mean; and of how light they are,
over how much the light varies within one. Textures that were tried lie at 0.04 to 0.13 and 0.06 to 0.17, the
most even of other pictures at 0.19 and 0.45 (benchmarks/look.py)."""


def is_one_texture(grey: NDArray[np.uint8]) -> bool:
    """Whether all patches of a picture (h, w) are alike."""
    scale = min(1.0, SIDE / max(grey.shape))
    small = cv2.resize(grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA).astype(np.float32)
    across, down = cv2.Sobel(small, cv2.CV_32F, 1, 0), cv2.Sobel(small, cv2.CV_32F, 0, 1)
    edges = np.hypot(across, down)
    rows, columns = (np.linspace(0, size, PATCHES + 1).astype(int) for size in small.shape)
    patches = [
        np.s_[top:bottom, left:right]
        for top, bottom in itertools.pairwise(rows)
        for left, right in itertools.pairwise(columns)
    ]
    if min(small.shape) < 2 * PATCHES:
        return False
    strength = np.array([edges[patch].mean() for patch in patches])
    light = np.array([small[patch].mean() for patch in patches])
    within = np.array([small[patch].std() for patch in patches])
    even = strength.std() < ALIKE_IN_EDGES * strength.mean()
    return bool(even and light.std() < ALIKE_IN_LIGHT * within.mean())
