"""The largest rectangle in an outline that a lens bends: the place farthest from the edge is searched for."""

from __future__ import annotations

import numpy as np
import shapely

from sequor.core.camera import Array
from sequor.core.frame.constraints import FrameConstraints, NoFrameError
from sequor.core.rectangle import Rectangle

BENT_PRECISION = 0.15
"""Corrected pixels by which the largest rectangle in a bent outline may be too narrow."""

RATIOS_TRIED = 8

WIDEST_RATIO = 4.0
"""In a bent outline the best ratio is looked for within so many times that of the whole."""

COARSE = 1 / 2000
"""And in an outline with fewer points, to this share of its lesser side."""


def largest_in_bent(
    outline: Array,
    width: float,
    height: float,
    near: Array | None,
    constraints: FrameConstraints,
    precision: float = BENT_PRECISION,
) -> Rectangle:
    """``near`` None: whichever of equally large ones."""
    from sequor.core.frame.inscribed import edges_of, need, pole, room, sides_of

    size = np.array([width, height])
    a, b = (2 * share - 1 for share in constraints.shares)
    scaled = outline / size
    edges, sides = edges_of(scaled, a, b), sides_of(a, b)
    window = np.concatenate([scaled.min(axis=0), scaled.max(axis=0)])
    if constraints.across is not None:
        window[[0, 2]] = constraints.across[0] / width
    if constraints.down is not None:
        window[[1, 3]] = constraints.down[0] / height
    hold = np.array([np.inf, np.inf, -np.inf, -np.inf])
    if constraints.around is not None:
        one = constraints.around
        hold = np.array([one.x, one.y, one.right, one.bottom]) / [*size, *size]
    fine = precision / float(size.max()) / 2
    most = constraints.at_most / 2
    x, y, half = pole(edges, window, sides, hold, most, fine)
    if half <= fine:
        raise NoFrameError("the outline has no inside")
    half = min(half, most)
    anchor = np.array([x, y])
    if near is None:
        return Rectangle.about(anchor * size, 2 * half * width, 2 * half * height, constraints.shares)
    wanted = near / size

    def as_large(there: Array) -> bool:
        found = float(room(edges, len(edges), there[0], there[1], sides, True))
        return found >= half - fine / 4 and half >= need(hold, there[0], there[1], sides)

    # Of equally large ones the nearest: straight there, then what is still open along either axis.
    free = np.array([constraints.across is None, constraints.down is None], float)
    for axes in (np.array([1.0, 1.0]), np.array([1.0, 0.0]), np.array([0.0, 1.0])):
        step = axes * free * (wanted - anchor)
        open_, closed = 0.0, 1.0
        if as_large(anchor + step):
            open_ = 1.0
        while (closed - open_) * float(np.abs(step).max()) > fine and open_ < 1.0:
            middle = (open_ + closed) / 2
            open_, closed = (middle, closed) if as_large(anchor + middle * step) else (open_, middle)
        anchor = anchor + open_ * step
    half = min(most, float(room(edges, len(edges), anchor[0], anchor[1], sides, True)))
    return Rectangle.about(anchor * size, 2 * half * width, 2 * half * height, constraints.shares)


def best_size_in_bent(outline: Array, around: Rectangle | None) -> tuple[float, float]:
    from scipy.optimize import minimize_scalar  # heavy, and needed for a free shape alone

    wide, high = np.ptp(outline, axis=0)
    precision = COARSE * float(min(wide, high))
    coarse = shapely.get_coordinates(shapely.simplify(shapely.Polygon(outline), precision))[:-1]
    whole = float(np.log(wide / high))

    def found(log_ratio: float, polygon: Array, precision: float) -> Rectangle | None:
        width = float(np.exp(log_ratio)) * high
        try:
            return largest_in_bent(polygon, width, high, None, FrameConstraints(around=around), precision)
        except NoFrameError:
            return None

    def area(log_ratio: float) -> float:
        one = found(log_ratio, coarse, precision)
        return one.width * one.height if one else 0.0

    reach = float(np.log(WIDEST_RATIO))
    tried = np.linspace(whole - reach, whole + reach, RATIOS_TRIED)
    step = tried[1] - tried[0]
    best = tried[int(np.argmax([area(one) for one in tried]))]
    answer = minimize_scalar(
        lambda one: -area(one), bounds=(best - step, best + step), method="bounded", options={"xatol": 1e-2}
    )
    one = found(float(answer.x), outline, BENT_PRECISION) or found(float(best), outline, BENT_PRECISION)
    if one is None:
        raise NoFrameError("the outline has no inside")
    return one.width, one.height
