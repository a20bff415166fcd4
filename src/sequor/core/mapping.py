"""The one map between the photo and the corrected picture, used by everybody.

Preview mesh, magnifier, outline, frame and export all come from a :class:`Mapping`; nothing derives the
correction again. Corrected pixels are defined by GEOMETRY: the photo's centre keeps its coordinates and
its area scale 1 there; they may be negative.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .camera import Array, Attitude, Intrinsics, levelling


@dataclass(frozen=True)
class Mesh:
    """A grid of photo points carried to the corrected picture.

    ``vertices`` is (rows + 1, columns + 1, 3), homogeneous corrected pixels (X, Y, W); vertex (i, j)
    belongs to the photo point (j / columns * width, i / rows * height).
    """

    columns: int
    rows: int
    vertices: Array


@dataclass(frozen=True)
class Mapping:
    """A compiled correction of a photo of ``width`` x ``height`` pixels.

    ``homography`` is the (3, 3) matrix from photo pixels to corrected pixels.
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

    def outline(self) -> Array:
        """The edge of the corrected picture: (4, 2) corrected pixels, clockwise from the photo's top left."""
        return self.to_corrected(photo_corners(self.width, self.height))

    def mesh(self, columns: int = 64, rows: int = 48) -> Mesh:
        """The mesh the preview is drawn from."""
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
