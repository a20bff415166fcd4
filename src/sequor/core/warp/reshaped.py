"""The warp of a picture that is made to fill its rectangle."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Self

import numpy as np

from sequor.core.camera import Array
from sequor.core.warp.base import PreviewMesh, Warp, grid_over
from sequor.core.warp.homography import BENT_MESH
from sequor.core.warp.lattice import Lattice
from sequor.core.warp.locate import NO_BENDING, NO_HOMOGRAPHY, Compiled
from sequor.core.warp.outline import photo_corners


@dataclass(frozen=True)
class ReshapedWarp(Warp):
    """``lattice`` says for corrected pixels of its rectangle which photo pixel they show; all of the photo is
    in it."""

    lattice: Lattice

    @property
    def straight(self) -> bool:
        return False

    @property
    def cuts(self) -> bool:
        return False

    def to_corrected(self, points: Array) -> Array:
        area, share = self.lattice.area, points / [self.width, self.height]
        return self.lattice.inverse(points, share * [area.width, area.height] + [area.x, area.y])

    def turned(self, ideal: Array) -> Array:
        return self.to_corrected(self.lens.distorted(ideal))

    def to_photo(self, points: Array) -> Array:
        return self.lattice.at(points)

    def to_ideal(self, points: Array) -> Array:
        return self.lens.undistorted(self.lattice.at(points))

    def _edge(self) -> Array:
        area = self.lattice.area
        return photo_corners(area.width, area.height) + [area.x, area.y]

    def mesh(self) -> PreviewMesh:
        columns, rows = BENT_MESH
        corrected = self.to_corrected(grid_over(self.width, self.height, columns, rows))
        level = np.column_stack([corrected, np.ones(len(corrected))])
        return PreviewMesh(columns, rows, level.reshape(rows + 1, columns + 1, 3))

    def at_scale(self, scale: float) -> Self:
        size = round(self.width * scale), round(self.height * scale)
        return type(self)(*size, self.lens.scaled(scale), self.lattice.scaled((scale, scale), scale))

    def resized(self, across: float, down: float) -> Self:
        lattice = self.lattice.scaled((across, down), 1.0)
        return type(self)(self.width, self.height, self.lens, lattice)

    def compiled(self) -> Compiled:
        area, (columns, rows) = self.lattice.area, self.lattice.cells
        place = np.array([area.x, area.y, columns / area.width, rows / area.height])
        values = np.ascontiguousarray(self.lattice.values)
        return Compiled(NO_HOMOGRAPHY, 1.0, NO_BENDING, place, values)
