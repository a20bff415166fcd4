"""The largest rectangle in the corrected picture, of a given ratio or of any, with what it must hold or meet.

The valid region is the photo's outline under the map: a convex polygon as long as no lens bends its edge
(:mod:`convex`), else a fine polygon that need not be convex (:mod:`curved`).
"""

from __future__ import annotations

import numpy as np

from sequor.core.camera import Array
from sequor.core.frame.constraints import ANY, FrameConstraints
from sequor.core.frame.convex import HalfPlanes, best_size, largest_in_convex
from sequor.core.frame.curved import best_size_in_bent, largest_in_bent
from sequor.core.rectangle import Rectangle

BENT_TOUCH = 0.05
"""The same for a bent outline, whose curves are known that well; a pixel's centre is half a pixel inside."""

MOST_CORNERS = 8
"""A convex outline has no more corners: those of the photo, and one more for each cut."""


def bent(outline: Array) -> bool:
    """Whether an outline is a fine polygon, as a lens makes it, and not a convex one of few corners."""
    return len(outline) > MOST_CORNERS


def holds(outline: Array, rectangle: Rectangle) -> bool:
    """Whether the rectangle lies in the outline (N, 2)."""
    if bent(outline):
        scale = room_about(outline, rectangle.width, rectangle.height, rectangle.centre)
        slack = 2 * BENT_TOUCH / min(rectangle.width, rectangle.height)
        return scale >= 1 - slack
    return HalfPlanes.of(outline).hold(rectangle)


def room_about(outline: Array, width: float, height: float, centre: Array) -> float:
    """The scale of the largest rectangle of this size about a centre (2,); not positive outside."""
    if not bent(outline):
        planes = HalfPlanes.of(outline)
        return float(((planes.offsets - planes.normals @ centre) / planes.reach(width, height)).min())
    # numba takes half a second to load: only a bent edge waits for it.
    from sequor.core.frame.inscribed import edges_of, room, sides_of

    edges = edges_of(outline / [width, height])
    x, y = centre / [width, height]
    return 2 * float(room(edges, len(edges), x, y, sides_of(0, 0), True))


def largest(
    outline: Array, width: float, height: float, near: Array, constraints: FrameConstraints = ANY
) -> Rectangle:
    """The largest rectangle of the ratio width : height inside an outline (N, 2) that meets all of them.

    Among equally large ones the one whose centre is nearest to ``near`` (2,) is taken. Exact, not rounded; in
    a bent outline to ``BENT_PRECISION``.

    Raises NoFrameError when there is none.

    >>> diamond = np.array([[100.0, 0.0], [200.0, 100.0], [100.0, 200.0], [0.0, 100.0]])
    >>> square = largest(diamond, 1, 1, np.array([100.0, 100.0]))
    >>> round(square.x, 6), round(square.width, 6)
    (50.0, 100.0)
    """
    if bent(outline):
        return largest_in_bent(outline, width, height, near, constraints)
    return largest_in_convex(outline, width, height, near, constraints)


def largest_of_any_ratio(outline: Array, near: Array, around: Rectangle | None = None) -> Rectangle:
    """The rectangle of the largest area inside an outline (N, 2) that holds ``around``, whatever its ratio.

    In a convex outline log width + log height is concave under linear constraints, and the maximum is found
    exactly (sequential least squares, scipy's SLSQP). In a bent one the ratio is searched for, to a
    thousandth of the area. Raises NoFrameError when there is none.
    """
    width, height = best_size_in_bent(outline, around) if bent(outline) else best_size(outline, around)
    # Of equally large ones the nearest, and never by a rounding error too large.
    return largest(outline, width, height, near, FrameConstraints(around=around, at_most=1.0))


def shrink_into(outline: Array, rectangle: Rectangle) -> Rectangle:
    """The rectangle about the same centre, smaller only as far as it must be to lie in the outline (N, 2).

    When the centre itself lies outside, it moves to the nearest point that leaves room for a tenth of
    the largest such rectangle.
    """
    width, height, centre = rectangle.width, rectangle.height, rectangle.centre
    room = room_about(outline, width, height, centre)
    if room <= 0.1:
        best = largest(outline, width, height, centre)
        for step in np.linspace(0.0, 1.0, 101):
            moved = (1 - step) * centre + step * best.centre
            room = room_about(outline, width, height, moved)
            if room >= 0.1 * best.width / width:
                centre = moved
                break
    scale = min(1.0, room)
    return Rectangle.about(centre, width * scale, height * scale)
