"""A wide view in closed form: photo pixels, rays, pixels of the base view, and back."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Array
from sequor.core.distortion.models import Lens
from sequor.core.warp.wide.base_view import BaseView


@dataclass(frozen=True, eq=False)
class Exact:
    """``turn`` (3, 3) from camera axes to those of the corrected picture; ``down`` (3,): what is plumb in the
    world, there; ``size``: the photo's width and height."""

    size: tuple[int, int]
    lens: Lens
    focal_px: float
    turn: Array
    down: Array
    view: BaseView

    def rays_of(self, points: Array) -> Array:
        """Unit rays (N, 3) in the corrected picture's axes of photo pixels (N, 2)."""
        return self.lens.rays(points, self.focal_px) @ self.turn.T

    def photo_of(self, rays: Array) -> Array:
        """Photo pixels (N, 2) of rays (N, 3); NaN for what a flat lens has behind it."""
        return self.lens.recorded(rays @ self.turn, self.focal_px)

    def base_of(self, points: Array) -> Array:
        """Pixels of the base view (N, 2) of photo pixels (N, 2)."""
        return self.view.from_level(self.rays_of(points))

    def on_photo(self, points: Array) -> NDArray[np.bool_]:
        """Which points (N, 2) lie on the photo, and where the lens records."""
        with np.errstate(invalid="ignore"):
            inside = np.all((points >= 0) & (points <= np.array(self.size)), axis=1)
            return np.asarray(inside & self.recorded(points), np.bool_)

    def recorded(self, points: Array) -> NDArray[np.bool_]:
        """Which photo pixels (N, 2) lie within what the lens records."""
        away = np.hypot(*(points - self.lens.centre).T)
        return np.asarray(away <= self.lens.recorded_reach, np.bool_)
