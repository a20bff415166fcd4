"""Warps that are told by a lattice over the corrected picture."""

from __future__ import annotations

from abc import abstractmethod
from dataclasses import dataclass

import numpy as np

from sequor.core.camera import Array
from sequor.core.warp.base import PreviewMesh, Warp, grid_over
from sequor.core.warp.homography import BENT_MESH
from sequor.core.warp.lattice import Lattice
from sequor.core.warp.locate import NO_BENDING, NO_HOMOGRAPHY, Compiled


@dataclass(frozen=True)
class LatticeWarp(Warp):
    """``lattice`` says for corrected pixels of its rectangle which photo pixel they show."""

    lattice: Lattice

    @property
    def straight(self) -> bool:
        return False

    @abstractmethod
    def _start(self, points: Array) -> Array:
        """About where photo pixels (N, 2) lie in the corrected picture."""

    def to_corrected(self, points: Array) -> Array:
        return self.lattice.inverse(points, self._start(points))

    def to_photo(self, points: Array) -> Array:
        return self.lattice.at(points)

    def mesh(self) -> PreviewMesh:
        columns, rows = BENT_MESH
        corrected = self.to_corrected(self._shown(grid_over(self.width, self.height, columns, rows)))
        level = np.column_stack([corrected, np.ones(len(corrected))])
        return PreviewMesh(columns, rows, level.reshape(rows + 1, columns + 1, 3))

    def _shown(self, points: Array) -> Array:
        """Points (N, 2) of the photo; what the map does not show is drawn in to where it ends."""
        return points

    def compiled(self) -> Compiled:
        area, (columns, rows) = self.lattice.area, self.lattice.cells
        place = np.array([area.x, area.y, columns / area.width, rows / area.height])
        values = np.ascontiguousarray(self.lattice.values)
        return Compiled(NO_HOMOGRAPHY, 1.0, NO_BENDING, place, values)
