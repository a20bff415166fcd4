"""The one map between the photo and the corrected picture, used by everybody.

Preview mesh, magnifier, outline, frame and export all come from a :class:`Mapping`; nothing derives the
correction again. Corrected pixels are defined by GEOMETRY: the photo's centre keeps its coordinates and
its area scale 1 there; they may be negative.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .camera import Array, Attitude, Intrinsics, levelling

STRONGEST_SCALE = 4.0
"""Where the picture would be enlarged more than this (the root of the area scale), it is cut."""

NEAREST_DEPTH = STRONGEST_SCALE ** (-2 / 3)
"""The same as a limit of the homography's third coordinate w: the area scale is 1 / w^3."""


@dataclass(frozen=True)
class Mesh:
    """A grid of photo points carried to the corrected picture.

    ``vertices`` is (rows + 1, columns + 1, 3), homogeneous corrected pixels (X, Y, W); vertex (i, j)
    belongs to the photo point (j / columns * width, i / rows * height). Where W is under ``NEAREST_DEPTH``
    nothing is drawn.
    """

    columns: int
    rows: int
    vertices: Array


@dataclass(frozen=True)
class Mapping:
    """A compiled correction of a photo of ``width`` x ``height`` pixels.

    ``homography`` is the (3, 3) matrix from photo pixels to corrected pixels, with the third coordinate 1
    at the photo's centre. The map exists where that coordinate is at least ``NEAREST_DEPTH``.
    """

    width: int
    height: int
    homography: Array

    @classmethod
    def compile(
        cls, camera: Intrinsics, taken: Attitude, left_in: Attitude, proportion: float = 1.0
    ) -> Mapping:
        """The map that takes out ``taken`` but for ``left_in`` (both in degrees)."""
        return cls(camera.width, camera.height, levelling(camera, taken, left_in, proportion))

    @property
    def inverse(self) -> Array:
        """The (3, 3) matrix from corrected pixels to photo pixels."""
        return np.asarray(np.linalg.inv(self.homography), np.float64)

    def to_corrected(self, points: Array) -> Array:
        """Corrected pixels (N, 2) of photo pixels (N, 2)."""
        return _apply(self.homography, points)

    def to_photo(self, points: Array) -> Array:
        """Photo pixels (N, 2) of corrected pixels (N, 2)."""
        return _apply(self.inverse, points)

    def valid_region(self) -> Array:
        """The part of the photo that the map shows: a convex polygon (N, 2) in photo pixels, clockwise."""
        corners = photo_corners(self.width, self.height)
        depth = corners @ self.homography[2, :2] + self.homography[2, 2] - NEAREST_DEPTH
        if np.all(depth >= 0):
            return corners
        kept = []
        for index in range(4):
            here, there = depth[index], depth[(index + 1) % 4]
            if here >= 0:
                kept.append(corners[index])
            if here * there < 0:
                kept.append(
                    corners[index] + here / (here - there) * (corners[(index + 1) % 4] - corners[index])
                )
        return np.array(kept)

    @property
    def cuts(self) -> bool:
        """Whether a part of the photo lies beyond what the map can show."""
        return not np.array_equal(self.valid_region(), photo_corners(self.width, self.height))

    def outline(self) -> Array:
        """The edge of the corrected picture: (N, 2) corrected pixels, clockwise from the photo's top left."""
        return self.to_corrected(self.valid_region())

    def mesh(self, columns: int = 16, rows: int = 12) -> Mesh:
        """The mesh the preview is drawn from. A homography is exact in every cell, however large; the cells
        only keep the picture whole while it eases from one mesh to another."""
        x, y = np.meshgrid(np.linspace(0, self.width, columns + 1), np.linspace(0, self.height, rows + 1))
        photo = np.stack([x, y, np.ones_like(x)], axis=-1)
        return Mesh(columns, rows, photo @ self.homography.T)

    def at_scale(self, scale: float) -> Mapping:
        """The same map for a copy of the photo reduced or enlarged by ``scale``, its output likewise."""
        resize = np.diag([scale, scale, 1.0])
        return Mapping(
            round(self.width * scale),
            round(self.height * scale),
            resize @ self.homography @ np.linalg.inv(resize),
        )


def photo_corners(width: float, height: float) -> Array:
    """The (4, 2) corners of a photo, clockwise from the top left."""
    return np.array([[0.0, 0.0], [width, 0.0], [width, height], [0.0, height]])


def _apply(matrix: Array, points: Array) -> Array:
    carried = points @ matrix[:, :2].T + matrix[:, 2]
    result: Array = carried[:, :2] / carried[:, 2:]
    return result
