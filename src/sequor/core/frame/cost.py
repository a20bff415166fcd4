"""The frame on the corrected picture: what it costs, and how it follows when the map changes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely import Polygon, box

from sequor.core.frame.largest import shrink_into
from sequor.core.rectangle import TOUCH, Rectangle
from sequor.core.warp.base import Warp

COST_POINTS = 128
"""Points along the photo's longer side by which an area's edge is followed back into the photo."""


@dataclass(frozen=True)
class Cost:
    """What a frame shows: ``kept`` of the photo's area, and ``empty`` of its own area (shares, 0 to 1)."""

    kept: float
    empty: float


def cost(rectangle: Rectangle, warp: Warp) -> Cost:
    """The cost of a frame in corrected pixels; exact polygon areas."""
    frame = box(rectangle.x, rectangle.y, rectangle.right, rectangle.bottom)
    # The parts into which a cut can make a bent outline fall hang together by lines without width.
    covered = shapely.make_valid(Polygon(warp.outline())).intersection(frame)
    if not warp.straight:
        covered = shapely.segmentize(covered, max(warp.width, warp.height) / COST_POINTS)
    shown = sum(
        Polygon(warp.to_photo(np.asarray(part.exterior.coords))).area
        for part in shapely.get_parts(covered)
        if isinstance(part, Polygon)
    )
    return Cost(min(1.0, shown / (warp.width * warp.height)), max(0.0, 1.0 - covered.area / frame.area))


@dataclass(frozen=True)
class CutOff:
    """What lies beyond each side of a frame: shares (0 to 1) of the corrected picture's area; a corner counts
    for both of its sides."""

    left: float
    top: float
    right: float
    bottom: float


def cut_off(rectangle: Rectangle, warp: Warp) -> CutOff:
    """How much of the picture a frame in corrected pixels cuts off on each side; exact polygon areas."""
    outline = warp.outline()
    picture = shapely.make_valid(Polygon(outline))
    (left, top), (right, bottom) = outline.min(axis=0) - 1, outline.max(axis=0) + 1

    def beyond(x0: float, y0: float, x1: float, y1: float) -> float:
        if x1 <= x0 or y1 <= y0:
            return 0.0
        return float(picture.intersection(box(x0, y0, x1, y1)).area / picture.area)

    return CutOff(
        left=beyond(left, top, rectangle.x, bottom),
        top=beyond(left, top, right, rectangle.y),
        right=beyond(rectangle.right, top, right, bottom),
        bottom=beyond(left, rectangle.bottom, right, bottom),
    )


def carry(
    rectangle: Rectangle,
    before: Warp,
    after: Warp,
    ratio: tuple[float, float] | None,
    allow_empty: bool = False,
) -> Rectangle:
    """A hand-made frame under a new map: its centre on the same point of the photo, shrunk as far as it must.

    ``ratio`` (width : height) is kept exactly, so that many small changes do not add up; None: as it is.
    Where empty corners are allowed, the frame keeps its size.
    """
    on_photo = before.to_photo(rectangle.centre[None])
    centre = after.to_corrected(on_photo)[0]
    if not np.all(np.isfinite(centre)):
        # The new map does not show that point, or the old one had none there.
        centre = Rectangle.between(after.outline()).centre
    moved = Rectangle.about(centre, rectangle.width, rectangle.height)
    if allow_empty:
        return moved
    kept = shrink_into(after.outline(), moved)
    if kept.width >= rectangle.width - TOUCH:
        return moved
    return (kept if ratio is None else kept.of_ratio(ratio)).inwards()
