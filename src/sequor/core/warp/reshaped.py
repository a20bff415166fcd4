"""The warp of a picture that is made to fill its rectangle."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Self

import numpy as np

from sequor.core.camera import Array
from sequor.core.warp.lattice_warp import LatticeWarp
from sequor.core.warp.outline import photo_corners


@dataclass(frozen=True)
class ReshapedWarp(LatticeWarp):
    """All of the photo is in the rectangle of the lattice."""

    @property
    def cuts(self) -> bool:
        return False

    def _start(self, points: Array) -> Array:
        area, share = self.lattice.area, points / [self.width, self.height]
        return np.asarray(share * [area.width, area.height] + [area.x, area.y])

    def _edge(self) -> Array:
        area = self.lattice.area
        return photo_corners(area.width, area.height) + [area.x, area.y]

    def turned(self, ideal: Array) -> Array:
        return self.to_corrected(self.lens.distorted(ideal))

    def to_ideal(self, points: Array) -> Array:
        return self.lens.undistorted(self.to_photo(points))

    def at_scale(self, scale: float) -> Self:
        size = round(self.width * scale), round(self.height * scale)
        return type(self)(*size, self.lens.scaled(scale), self.lattice.scaled((scale, scale), scale))

    def resized(self, across: float, down: float) -> Self:
        lattice = self.lattice.scaled((across, down), 1.0)
        return type(self)(self.width, self.height, self.lens, lattice)
