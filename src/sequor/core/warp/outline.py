"""The edge of a corrected picture: the photo's border, bent by a lens, cut where a homography ends."""

from __future__ import annotations

import numpy as np
import shapely

from sequor.core.camera import Array
from sequor.core.distortion.models import Lens

BORDER_POINTS = 96
"""Points along each side of a photo whose edge the lens bends: the chords stay within 0.1 px of the curve."""


def photo_corners(width: float, height: float) -> Array:
    """The (4, 2) corners of a photo, clockwise from the top left."""
    return np.array([[0.0, 0.0], [width, 0.0], [width, height], [0.0, height]])


def photo_border(width: float, height: float) -> Array:
    """Points (N, 2) along the edge of a photo, clockwise from the top left."""
    share = np.linspace(0, 1, BORDER_POINTS, endpoint=False)[:, None]
    corners = photo_corners(width, height)
    sides = zip(corners, np.roll(corners, -1, axis=0), strict=True)
    return np.concatenate([here + share * (there - here) for here, there in sides])


def bent_border(width: float, height: float, lens: Lens) -> Array:
    """The edge of a photo in ideal pixels (N, 2), as far as the lens reaches."""
    border = photo_border(width, height)
    if np.isfinite(lens.reach):
        around = np.linspace(0, 2 * np.pi, 4 * BORDER_POINTS, endpoint=False)
        circle = lens.reach * lens.unit_px * np.column_stack([np.cos(around), np.sin(around)])
        limit = shapely.Polygon(lens.distorted(circle + lens.centre))
        whole = shapely.Polygon(border)
        if not limit.contains(whole):
            border = np.asarray(limit.intersection(whole).exterior.coords)[:-1]
    return lens.undistorted(border)


def cut(polygon: Array, depth: Array) -> Array:
    """The part of a polygon (N, 2) where a linear function, (N,) at its corners, is not negative.

    Sutherland and Hodgman's step (I. E. Sutherland, G. W. Hodgman, *Reentrant Polygon Clipping*, Comm. ACM
    17, 1974); the parts that a polygon that is not convex falls into stay joined along the cut.
    """
    kept = []
    for index, here in enumerate(depth):
        point, following = polygon[index], polygon[(index + 1) % len(polygon)]
        there = depth[(index + 1) % len(polygon)]
        if here >= 0:
            kept.append(point)
        if here * there < 0:
            kept.append(point + here / (here - there) * (following - point))
    return np.array(kept)
