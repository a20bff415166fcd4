"""How level rays are put on paper before any wish: flat, round, or round sideways only.

Seen from a point d behind the middle of the sphere: ``q = (1 + d) / (d + Z) (X, Y)`` (round), or the same on
the azimuth with y = tan(elevation) carried along (sideways: T. K. Sharpless, B. Postle, D. M. German,
*Pannini: A New Projection for Rendering Wide Angle Perspective Images*, 2010). d = 0 is flat, d = 1 round is
stereographic. Axes x right, y down, z forward, z horizontal; the photo's centre keeps its pixel and its area
scale 1."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from sequor.core.camera import Array

Roundness = Literal["round", "sideways"]

STRONGEST_AREA = 16.0
"""By how much more than the centre an area may be enlarged; beyond it the picture is cut."""

HALF_WIDTH_MM = 18.0
"""Half the width of the 36 x 24 mm frame."""

BORDER = 360
NEAREST = 1e-6


@dataclass(frozen=True, eq=False)
class BaseView:
    """``scale`` and ``shift`` (2,) carry the plane above to corrected pixels."""

    kind: Roundness
    d: float
    scale: Array
    shift: Array

    def from_level(self, rays: Array) -> Array:
        """Corrected pixels (N, 2) of level rays (N, 3); they need not have length 1."""
        return self.shift + self.scale * _on_plane(self.kind, self.d, rays)

    def to_level(self, points: Array) -> Array:
        """Unit level rays (N, 3) of corrected pixels (N, 2)."""
        q, d = (points - self.shift) / self.scale, self.d
        across = np.sum(q * q, axis=1) if self.kind == "round" else q[:, 0] ** 2
        ahead = _ahead(across / (1 + d) ** 2, d)
        rays = np.column_stack([q * ((d + ahead) / (1 + d))[:, None], ahead])
        return rays if self.kind == "round" else rays / np.linalg.norm(rays, axis=1, keepdims=True)

    def limit(self, strongest: float) -> Array:
        """The edge (N, 3), unit level rays, of what may be shown: within it no area is enlarged more than so
        many times as much as straight ahead."""
        around = np.linspace(0.0, 2 * np.pi, BORDER, endpoint=False)
        widest = _widest(self.d, strongest)
        if self.kind == "round":
            aside = np.sin(widest)
            ring = np.column_stack([aside * np.cos(around), aside * np.sin(around)])
            return np.column_stack([ring, np.full(BORDER, np.cos(widest))])
        azimuth, elevation = widest * np.cos(around), np.arccos(strongest ** (-1 / 3)) * np.sin(around)
        to_square = 1 / np.maximum(np.abs(np.cos(around)), np.abs(np.sin(around)))
        azimuth, elevation = azimuth * to_square, elevation * to_square
        flat = np.cos(elevation)
        return np.column_stack([flat * np.sin(azimuth), np.sin(elevation), flat * np.cos(azimuth)])


def base_view(
    kind: Roundness, d: float, axis: Array, centre: Array, focal_px: float, proportion: float = 1.0
) -> BaseView:
    """The view that keeps the photo's centre (2,), whose ray is ``axis`` (3,) in level axes."""
    x, _, z = axis
    if kind == "round":
        area = (1 + d) ** 2 * (1 + d * z) / (d + z) ** 3
    else:
        flat = float(np.hypot(x, z))
        area = (1 + d) ** 2 * (1 + d * z / flat) / (d + z / flat) ** 3 / flat**3
    if not area > 0:
        raise ValueError("the correction is 90° or more")
    root = float(np.sqrt(proportion))
    scale = focal_px / np.sqrt(area) * np.array([1 / root, root])
    return BaseView(kind, d, scale, centre - scale * _on_plane(kind, d, axis[None])[0])


def distance_for(edge: float, looks_like_35mm: float | None) -> float:
    """d, with which nothing up to an angle ``edge`` (radians) is stretched more than at the edge of a flat
    picture of that focal length; None: as taken, which is flat.

    >>> round(distance_for(np.arctan(18 / 18.0), 50.0), 3), distance_for(0.6, 18.0)
    (0.698, 0.0)
    """
    if looks_like_35mm is None:
        return 0.0
    alike = float(np.arctan(HALF_WIDTH_MM / looks_like_35mm))
    c, a = float(np.cos(edge)), float(np.cos(min(alike, edge)))
    return (a - c) / (1 - a * c)


def _on_plane(kind: Roundness, d: float, rays: Array) -> Array:
    if kind == "round":
        length = np.linalg.norm(rays, axis=1)
        ahead = np.maximum(d * length + rays[:, 2], NEAREST)
        return np.asarray(rays[:, :2] * ((1 + d) / ahead)[:, None])
    flat = np.hypot(rays[:, 0], rays[:, 2])
    return np.asarray(rays[:, :2] * ((1 + d) / np.maximum(d * flat + rays[:, 2], NEAREST))[:, None])


def _ahead(square: Array, d: float) -> Array:
    """The cosine of the angle whose sine over (d + cosine) has this square."""
    return np.asarray((-square * d + np.sqrt(np.maximum(1 + square * (1 - d * d), 0))) / (1 + square))


def _widest(d: float, strongest: float) -> float:
    """The angle at which an area is enlarged so many times as much as straight ahead."""
    near, far = 0.0, np.pi - 1e-3
    for _ in range(60):
        middle = (near + far) / 2
        c = np.cos(middle)
        within = d + c > 0 and (1 + d) ** 2 * max(1 + d * c, 0.0) <= strongest * (d + c) ** 3
        near, far = (middle, far) if within else (near, middle)
    return near
