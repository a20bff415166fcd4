"""What somebody else painted for a hole, taken in like any other fill: its level meets what it borders on."""

from __future__ import annotations

import cv2
import numpy as np

from sequor.core.fill.blend import Indices, Mask, membrane
from sequor.core.fill.patchmatch import MOST_LIFT
from sequor.core.raster.pixels import Picture, in_codes, values_of

LOOKED_AT = 9
"""Painted pixels about a point of the rim that say how it was meant to go on."""


def blended(picture: Picture, hole: Mask, painted: Picture) -> Picture:
    """The picture (h, w, 3) with its hole as ``painted`` (h, w, 3) of any depth has it, lifted or lowered so
    that there is no seam; every other pixel as it was."""
    out = picture.copy()
    if not hole.any():
        return out
    values = values_of(painted)
    inside = hole.astype(np.float32)
    size = (LOOKED_AT, LOOKED_AT)
    share = np.asarray(cv2.blur(inside, size), np.float32)
    around = cv2.blur(values * inside[..., None], size) / np.maximum(share, 1e-6)[..., None]
    around_hole = (cv2.dilate(hole.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0) & ~hole
    rim, at = _places(around_hole), _places(hole)
    if len(rim[0]):
        known = cv2.blur(values_of(picture) * (1 - inside)[..., None], size)
        known = known / np.maximum(1 - share, 1e-6)[..., None]
        difference = np.clip((known - around)[rim], -MOST_LIFT, MOST_LIFT).astype(np.float32)
        values[at] += membrane((hole.shape[0], hole.shape[1]), at, rim, difference)
    out[at] = in_codes(values[at], picture)
    return out


def _places(mask: Mask) -> Indices:
    """Rows and columns where a mask is set."""
    rows, columns = np.nonzero(mask)
    return rows, columns
