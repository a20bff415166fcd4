"""Warps of a homography, with a lens that bends nothing and with one that does."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Self

import numpy as np

from sequor.core.camera import Array, Attitude, Intrinsics, levelling
from sequor.core.distortion.models import Lens, no_lens
from sequor.core.warp.base import NEAREST_DEPTH, PreviewMesh, Warp, grid_over
from sequor.core.warp.locate import NO_AREA, NO_LATTICE, Compiled, lens_terms
from sequor.core.warp.outline import bent_border, cut, photo_corners

STRAIGHT_MESH, BENT_MESH = (16, 12), (64, 48)
"""Cells of the preview's mesh. A homography is exact in every cell, however large, and the cells only keep
the picture whole while it eases; what a lens bends needs small ones."""


@dataclass(frozen=True)
class PlainWarp(Warp):
    """A homography alone: the lens bends nothing.

    ``homography`` is the (3, 3) matrix from ideal pixels to corrected pixels, with the third coordinate 1
    at the photo's centre. The warp exists where that coordinate is at least ``NEAREST_DEPTH``.
    """

    homography: Array

    @cached_property
    def inverse(self) -> Array:
        """The (3, 3) matrix from corrected pixels to ideal pixels."""
        return np.asarray(np.linalg.inv(self.homography), np.float64)

    @property
    def straight(self) -> bool:
        return True

    @property
    def cuts(self) -> bool:
        return not bool(np.all(self.depth(photo_corners(self.width, self.height)) >= NEAREST_DEPTH))

    def depth(self, ideal: Array) -> Array:
        """The third coordinate (N,) that ideal pixels (N, 2) are carried to."""
        return np.asarray(ideal @ self.homography[2, :2] + self.homography[2, 2])

    def to_corrected(self, points: Array) -> Array:
        return self.turned(points)

    def turned(self, ideal: Array) -> Array:
        return _apply(self.homography, ideal)

    def to_photo(self, points: Array) -> Array:
        return self.to_ideal(points)

    def to_ideal(self, points: Array) -> Array:
        return _apply(self.inverse, points)

    def _edge(self) -> Array:
        return self._edge_of(photo_corners(self.width, self.height))

    def _edge_of(self, ideal: Array) -> Array:
        """The outline of a border in ideal pixels (N, 2), cut where the warp ends."""
        depth = self.depth(ideal) - NEAREST_DEPTH
        return self.turned(ideal if np.all(depth >= 0) else cut(ideal, depth))

    def mesh(self) -> PreviewMesh:
        return self._mesh_of(grid_over(self.width, self.height, *STRAIGHT_MESH), *STRAIGHT_MESH)

    def _mesh_of(self, ideal: Array, columns: int, rows: int) -> PreviewMesh:
        vertices = ideal @ self.homography[:, :2].T + self.homography[:, 2]
        return PreviewMesh(columns, rows, vertices.reshape(rows + 1, columns + 1, 3))

    def at_scale(self, scale: float) -> Self:
        resize = np.diag([scale, scale, 1.0])
        homography = resize @ self.homography @ np.linalg.inv(resize)
        size = round(self.width * scale), round(self.height * scale)
        return type(self)(*size, self.lens.scaled(scale), homography)

    def resized(self, across: float, down: float) -> Self:
        homography = np.diag([across, down, 1.0]) @ self.homography
        return type(self)(self.width, self.height, self.lens, homography)

    def compiled(self) -> Compiled:
        return Compiled(self.inverse, 1 / NEAREST_DEPTH, lens_terms(self.lens), NO_AREA, NO_LATTICE)


class BentWarp(PlainWarp):
    """A homography behind a lens that bends; it exists within the lens's reach too."""

    @property
    def straight(self) -> bool:
        return False

    @property
    def cuts(self) -> bool:
        corners = self.lens.undistorted(photo_corners(self.width, self.height))
        shown = self.lens.within_reach(corners) & (self.depth(corners) >= NEAREST_DEPTH)
        return not bool(np.all(shown))

    def to_corrected(self, points: Array) -> Array:
        return self.turned(self.lens.undistorted(points))

    def to_photo(self, points: Array) -> Array:
        return self.lens.distorted(self.to_ideal(points))

    def _edge(self) -> Array:
        return self._edge_of(bent_border(self.width, self.height, self.lens))

    def mesh(self) -> PreviewMesh:
        lens, photo = self.lens, grid_over(self.width, self.height, *BENT_MESH)
        ideal = lens.undistorted(photo)
        beyond = np.logical_not(lens.within_reach(ideal))
        away = photo[beyond] - lens.centre
        reach = lens.reach * lens.unit_px / np.linalg.norm(away, axis=1)
        ideal[beyond] = lens.centre + away * reach[:, None]
        return self._mesh_of(ideal, *BENT_MESH)


def warp_of(
    camera: Intrinsics,
    taken: Attitude,
    left_in: Attitude,
    proportion: float = 1.0,
    lens: Lens | None = None,
) -> PlainWarp:
    """The warp that takes out the lens's bending, and ``taken`` but for ``left_in`` (both in degrees).

    Raises ValueError when the old optical axis ends up behind the corrected camera.

    >>> from sequor.core.camera import intrinsics
    >>> warp = warp_of(intrinsics(3000, 2000), Attitude(roll=90.0), Attitude())
    >>> warp.to_corrected(np.array([[1500.0, 1000.0], [2500.0, 1000.0]])).round(6) + 0.0
    array([[1500., 1000.],
           [1500., 2000.]])
    """
    return homography_warp(camera.width, camera.height, levelling(camera, taken, left_in, proportion), lens)


def homography_warp(width: int, height: int, homography: Array, lens: Lens | None = None) -> PlainWarp:
    """The warp of a homography from ideal to corrected pixels, behind a lens."""
    lens = lens or no_lens(width, height)
    return (PlainWarp if lens.straight else BentWarp)(width, height, lens, homography)


def _apply(matrix: Array, points: Array) -> Array:
    carried = points @ matrix[:, :2].T + matrix[:, 2]
    result: Array = carried[:, :2] / carried[:, 2:]
    return result
