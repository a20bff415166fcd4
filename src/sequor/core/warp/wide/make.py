"""From a camera, a lens and a view to the warp: first all that no wish changes, then the wishes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from sequor.core.camera import Array, Intrinsics
from sequor.core.distortion.models import Lens
from sequor.core.rectangle import Rectangle
from sequor.core.warp.wide.base_view import Roundness, base_view, distance_for
from sequor.core.warp.wide.exact import Exact
from sequor.core.warp.wide.ground import Ground, ground_for
from sequor.core.warp.wide.measured import Stretches, measured
from sequor.core.warp.wide.view import CannotShowError, Displaced, WideWarp, warp_over, wide_border
from sequor.core.warp.wide.wish import Wish
from sequor.core.warp.wide.wished import carry_out

MOST_FOUND = 200
"""Straight things that are led along, the longest."""


@dataclass(frozen=True)
class View:
    """How wide it looks. ``looks_like_35mm``: nothing is stretched more than at the edge of a flat picture of
    that focal length, None as taken. ``uprights`` 0 to 20: how firmly uprights are kept. ``rectangle``: the
    photo's border becomes one. ``found`` (N, 2, 2): ends of straight things in photo pixels."""

    kind: Roundness = "round"
    looks_like_35mm: float | None = None
    uprights: float = 3.0
    rectangle: bool = False
    found: Array | None = None


@dataclass(frozen=True, eq=False)
class Spread:
    """A wide view before any wish."""

    exact: Exact
    border: Array
    ground: Ground


@dataclass(frozen=True, eq=False)
class Wide:
    """A wide view: its warp, and of each wish by its id how far it could be met."""

    warp: WideWarp
    met: dict[str, float]

    @cached_property
    def stretches(self) -> Stretches:
        """What it does to what it shows."""
        return measured(self.warp)


def edge_angle(lens: Lens, camera: Intrinsics) -> float:
    """The angle in radians from the axis to the middle of the photo's short side, or as far as it goes."""
    half = np.array([[1.0, 0.5]] if camera.width >= camera.height else [[0.5, 1.0]])
    ray = lens.rays(half * [camera.width, camera.height], camera.focal_px)[0]
    return float(np.arctan2(np.hypot(ray[0], ray[1]), ray[2])) if np.all(np.isfinite(ray)) else np.pi / 2


def spread(
    camera: Intrinsics, lens: Lens, turn: Array, down: Array, view: View, proportion: float = 1.0
) -> Spread:
    """All of a wide view that no wish changes.

    ``turn`` (3, 3) from camera axes to those of the corrected picture; ``down`` (3,): what is plumb in the
    world, there. Raises CannotShowError."""
    d = distance_for(edge_angle(lens, camera), view.looks_like_35mm)
    centre = np.array([camera.width / 2, camera.height / 2])
    try:
        base = base_view(view.kind, d, turn[:, 2], centre, camera.focal_px, proportion)
    except ValueError as error:
        raise CannotShowError(str(error)) from None
    exact = Exact((camera.width, camera.height), lens, camera.focal_px, turn, down, base)
    border = wide_border(exact)
    outline = base.from_level(exact.rays_of(border))
    rectangle = _rectangle(exact, border, outline, proportion) if view.rectangle else None
    found = np.zeros((0, 2, 3))
    if view.found is not None and len(view.found):
        rays = exact.rays_of(view.found.reshape(-1, 2)).reshape(-1, 2, 3)
        found = rays[np.isfinite(rays).all(axis=(1, 2))]
        long = np.linalg.norm(found[:, 1] - found[:, 0], axis=1)
        found = found[np.argsort(-long, kind="stable")[:MOST_FOUND]]
    moves = d > 0 or rectangle is not None
    uprights = view.uprights if moves or not np.allclose(down, [0, 1, 0]) else 0.0
    return Spread(exact, border, ground_for(exact, outline, uprights, found, rectangle))


def wide_warp(spread: Spread, wishes: Sequence[Wish], amount: float = 1.0) -> Wide:
    """The warp of a wide view with some wishes carried out, in part. Raises CannotShowError."""
    wished = carry_out(spread.ground, wishes, amount)
    return Wide(warp_over(Displaced(spread.exact, wished.field), spread.border), wished.met)


def _rectangle(exact: Exact, border: Array, outline: Array, proportion: float) -> Rectangle:
    """The rectangle that a photo's border is to be: of the photo's ratio, about the picture, as large as
    it."""
    width, height = exact.size
    if abs(_area(border) - width * height) > 1e-6 * width * height:
        raise CannotShowError(
            "part of the picture is beyond what can be shown, so its border is no rectangle"
        )
    by = np.sqrt(_area(outline) / (width * height))
    low, high = outline.min(axis=0), outline.max(axis=0)
    root = float(np.sqrt(proportion))
    middle = (low + high) / 2
    return Rectangle.about(middle, by * width / root, by * height * root)


def _area(polygon: Array) -> float:
    after = np.roll(polygon, -1, axis=0)
    return abs(float(np.sum(polygon[:, 0] * after[:, 1] - after[:, 0] * polygon[:, 1]))) / 2
