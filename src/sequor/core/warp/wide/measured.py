"""What a wide view costs: how much it stretches, and how much lines may bend that nobody laid."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from sequor.core.camera import Array
from sequor.core.warp.wide.sphere import on_sphere, tissot
from sequor.core.warp.wide.view import Displaced, WideWarp
from sequor.core.warp.wide.wish import arcs

PLACES = 40
"""Along the photo's longer side at which it is looked."""

LONG = 1 / 3
"""Of the photo's longer side: lines as long as this are tried."""

POINTS = 9


@dataclass(frozen=True)
class Stretches:
    """``drawn_out``: how many times as much as across a small thing is stretched along, at worst; ``angle``
    the greatest error of an angle in degrees, and ``mean_angle`` its mean over the photo; ``bend`` how far a
    line a third of the picture long may be off a straight one, as a share of its length."""

    drawn_out: float
    angle: float
    mean_angle: float
    bend: float


def measured(warp: WideWarp) -> Stretches:
    """What a wide view does to what it shows."""
    map_, places = warp.map, places_on(warp)
    rays = map_.exact.rays_of(places)
    angle, drawn_out, _ = tissot(on_sphere(map_.from_level, rays, map_.exact.down))
    return Stretches(float(drawn_out.max()), float(angle.max()), float(angle.mean()), _bends(map_, places))


def places_on(warp: WideWarp, count: int = PLACES) -> Array:
    """Photo points (N, 2) of a regular grid over what is shown, so many along the longer side."""
    width, height = warp.map.exact.size
    step = max(width, height) / count
    x, y = np.meshgrid(np.arange(step / 2, width, step), np.arange(step / 2, height, step))
    points = np.column_stack([x.ravel(), y.ravel()])
    shown = shapely.Polygon(warp.border).buffer(-1.0)
    inside = points[shapely.contains_xy(shown, points[:, 0], points[:, 1])]
    # Of a sliver no place of the grid may be in it.
    return inside if len(inside) else np.array(shown.representative_point().coords)


def _bends(map_: Displaced, places: Array) -> float:
    """The worst of lines across and upright, and along both diagonals, about each place."""
    half = LONG * max(map_.exact.size) / 2
    ways = np.array([(1.0, 0.0), (0.0, 1.0), (0.7, 0.7), (0.7, -0.7)])
    ends = places[::7, None, None, :] + np.multiply.outer(np.array([-half, half]), ways).swapaxes(0, 1)
    ends = ends.reshape(-1, 2, 2)
    ends = ends[map_.exact.on_photo(ends.reshape(-1, 2)).reshape(-1, 2).all(axis=1)]
    if not len(ends):
        return 0.0
    rays = arcs(map_.exact.rays_of(ends.reshape(-1, 2)).reshape(-1, 2, 3), np.linspace(0, 1, POINTS))
    points = map_.from_level(rays.reshape(-1, 3)).reshape(-1, POINTS, 2)
    chord = points[:, -1] - points[:, 0]
    length = np.linalg.norm(chord, axis=1)
    square_to = np.column_stack([-chord[:, 1], chord[:, 0]]) / length[:, None]
    off = np.einsum("nkc,nc->nk", points - points[:, :1], square_to)
    return float(np.nanmax(np.ptp(off, axis=1) / 2 / length))
