"""A wish: what one line is to become."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from sequor.core.camera import Array
from sequor.core.warp.wide.field import BEYOND, Field

LOOKED_AT = 65
FEWEST = 8
PER_CELL = 2
"""Points of a line for each cell that it is long."""

MOST = 160
"""Points at most, however a line comes to wander about."""

MOST_BENT = 3
"""The degree of the curve through the points of a thing whose lens nobody described."""


@dataclass(frozen=True, eq=False)
class Wish:
    """``rays`` (2, 3): the ends of a straight thing, unit, in level axes; or ``trace`` (N, 2), photo pixels
    along a thing whose lens is not known. ``slope``: in degrees, the direction it is to have in the corrected
    picture (right end lower is positive, 90 upright); None: it is only to be straight. ``amount``: 0 to 1."""

    id: str
    rays: Array
    trace: Array | None = None
    slope: float | None = None
    amount: float = 1.0


def along(
    wish: Wish, from_level: Callable[[Array], Array], from_photo: Callable[[Array], Array], field: Field
) -> Array:
    """Points (N, 2) along a line in the base view, evenly by angle, so many for each cell, as far as the
    cells reach; none where nothing of it is there."""
    way = _on_arc(wish.rays, from_level) if wish.trace is None else _on_curve(wish.trace, from_photo)
    share = np.linspace(0, 1, LOOKED_AT)
    rough = way(share)
    columns, rows = field.cells
    low = np.array([field.x, field.y]) - BEYOND * field.cell
    high = low + (np.array([columns, rows]) + 2 * BEYOND) * field.cell
    with np.errstate(invalid="ignore"):
        inside = np.flatnonzero(np.all((rough >= low) & (rough <= high), axis=1))
    if len(inside) < 2:
        return np.zeros((0, 2))
    first, last = inside[0], inside[-1]
    length = float(np.linalg.norm(np.diff(rough[first : last + 1], axis=0), axis=1).sum())
    count = min(max(FEWEST, int(np.ceil(PER_CELL * length / field.cell)) + 1), MOST)
    return way(np.linspace(share[first], share[last], count))


def great_circle(rays: Array) -> Array:
    """The ends (2, 3) of the great circle that fits unit rays (N, 3) along a straight thing best."""
    if len(rays) == 2:
        return rays
    square_to = np.linalg.svd(rays, full_matrices=False)[2][2]
    ends = rays[[0, -1]] - (rays[[0, -1]] @ square_to)[:, None] * square_to
    return np.asarray(ends / np.linalg.norm(ends, axis=1, keepdims=True))


def arc(rays: Array, share: Array) -> Array:
    """Unit rays (N, 3) at shares (N,) of the way from one (3,) of ``rays`` (2, 3) to the other."""
    found: Array = arcs(rays[None], share)[0]
    return found


def arcs(rays: Array, share: Array) -> Array:
    """The same along several pairs (M, 2, 3): (M, N, 3)."""
    first, last = rays[:, 0], rays[:, 1]
    angle = np.arctan2(np.linalg.norm(np.cross(first, last), axis=1), np.sum(first * last, axis=1))[:, None]
    by = np.stack([np.sin((1 - share) * angle), np.sin(share * angle)], axis=1)
    found = np.einsum("msn,msc->mnc", by, rays)
    return np.asarray(found / np.maximum(np.sin(angle), 1e-12)[:, :, None])


def _on_arc(rays: Array, from_level: Callable[[Array], Array]) -> Callable[[Array], Array]:
    return lambda share: from_level(arc(rays, share))


def _on_curve(trace: Array, from_photo: Callable[[Array], Array]) -> Callable[[Array], Array]:
    at = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(trace, axis=0), axis=1))])
    fit = np.polyfit(at / at[-1], trace, min(MOST_BENT, len(trace) - 1))
    return lambda share: from_photo(
        np.column_stack([np.polyval(fit[:, 0], share), np.polyval(fit[:, 1], share)])
    )
