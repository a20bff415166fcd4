"""The one map between the photo and the corrected picture, used by everybody.

Preview mesh, magnifier, outline, frame and export all come from a :class:`Mapping`; nothing derives the
correction again. Corrected pixels are defined by GEOMETRY: the photo's centre keeps its coordinates and
its area scale 1 there; they may be negative. Three frames follow one another: photo pixels as recorded,
ideal ones (the bending of the lens taken out), corrected ones (turned level by a homography).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely

from sequor.core.camera import Array, Attitude, Intrinsics, levelling
from sequor.core.distortion.models import STRONGEST_SCALE, Lens, no_lens
from sequor.core.warp.lattice import Lattice

NEAREST_DEPTH = STRONGEST_SCALE ** (-2 / 3)
"""The same as a limit of the homography's third coordinate w: the area scale is 1 / w^3."""


@dataclass(frozen=True)
class Mesh:
    """A grid of photo points carried to the corrected picture.

    ``vertices`` is (rows + 1, columns + 1, 3), homogeneous corrected pixels (X, Y, W); vertex (i, j)
    belongs to the photo point (j / columns * width, i / rows * height). Where W is under ``NEAREST_DEPTH``
    nothing is drawn. Beyond the lens's reach a vertex lies where the way to it from the centre ends.
    """

    columns: int
    rows: int
    vertices: Array


BORDER_POINTS = 96
"""Points along each side of a photo whose edge the lens bends: the chords stay within 0.1 px of the curve."""

STRAIGHT_MESH, BENT_MESH = (16, 12), (64, 48)
"""Cells of the preview's mesh. A homography is exact in every cell, however large, and the cells only keep
the picture whole while it eases; what a lens bends needs small ones."""


@dataclass(frozen=True)
class Mapping:
    """A compiled correction of a photo of ``width`` x ``height`` pixels.

    ``homography`` is the (3, 3) matrix from ideal pixels to corrected pixels, with the third coordinate 1
    at the photo's centre. The map exists where that coordinate is at least ``NEAREST_DEPTH`` and the ideal
    pixel is within the reach of the lens. Of a picture that is reshaped, ``lattice`` says for corrected
    pixels of its rectangle which photo pixel they show, in place of both; all of the photo is in it.
    """

    width: int
    height: int
    homography: Array
    lens: Lens
    lattice: Lattice | None = None

    @classmethod
    def compile(
        cls,
        camera: Intrinsics,
        taken: Attitude,
        left_in: Attitude,
        proportion: float = 1.0,
        lens: Lens | None = None,
    ) -> Mapping:
        """The map that takes out the lens's bending, and ``taken`` but for ``left_in`` (both in degrees)."""
        homography = levelling(camera, taken, left_in, proportion)
        return cls(camera.width, camera.height, homography, lens or no_lens(camera.width, camera.height))

    @property
    def inverse(self) -> Array:
        """The (3, 3) matrix from corrected pixels to ideal pixels."""
        return np.asarray(np.linalg.inv(self.homography), np.float64)

    @property
    def straight(self) -> bool:
        """Whether straight things in the photo are straight in the corrected picture."""
        return self.lens.straight and self.lattice is None

    def to_corrected(self, points: Array) -> Array:
        """Corrected pixels (N, 2) of photo pixels (N, 2); NaN where the lens records nothing."""
        if self.lattice is not None:
            area = self.lattice.area
            share = points / [self.width, self.height]
            return self.lattice.inverse(points, share * [area.width, area.height] + [area.x, area.y])
        return self.turned(self.lens.undistorted(points))

    def turned(self, ideal: Array) -> Array:
        """Corrected pixels (N, 2) of ideal pixels (N, 2), from which the bending is taken out already."""
        if self.lattice is not None:
            return self.to_corrected(self.lens.distorted(ideal))
        return _apply(self.homography, ideal)

    def to_photo(self, points: Array) -> Array:
        """Photo pixels (N, 2) of corrected pixels (N, 2)."""
        if self.lattice is not None:
            return self.lattice.at(points)
        return self.lens.distorted(_apply(self.inverse, points))

    def to_ideal(self, points: Array) -> Array:
        """Ideal pixels (N, 2) of corrected pixels (N, 2), beyond the photo too."""
        if self.lattice is not None:
            return self.lens.undistorted(self.lattice.at(points))
        return _apply(self.inverse, points)

    @property
    def cuts(self) -> bool:
        """Whether a part of the photo lies beyond what the map can show."""
        if self.lattice is not None:
            return False
        corners = self.lens.undistorted(photo_corners(self.width, self.height))
        shown = self.lens.within_reach(corners) if not self.lens.straight else True
        return not bool(np.all(shown & (self._depth(corners) >= NEAREST_DEPTH)))

    def outline(self) -> Array:
        """The edge of the corrected picture: (N, 2) corrected pixels, clockwise, from the photo's top left if
        that is shown. A convex polygon of at most five corners while the lens is straight, else a fine
        polygon that need not be convex."""
        return self._outline

    @cached_property
    def _outline(self) -> Array:
        if self.lattice is not None:
            area = self.lattice.area
            return photo_corners(area.width, area.height) + [area.x, area.y]
        ideal = photo_corners(self.width, self.height) if self.lens.straight else self._bent_border()
        if not np.all(self._depth(ideal) >= NEAREST_DEPTH):
            ideal = _cut(ideal, self._depth(ideal) - NEAREST_DEPTH)
        return _apply(self.homography, ideal)

    def mesh(self) -> Mesh:
        """The mesh the preview is drawn from."""
        columns, rows = STRAIGHT_MESH if self.straight else BENT_MESH
        x, y = np.meshgrid(np.linspace(0, self.width, columns + 1), np.linspace(0, self.height, rows + 1))
        photo = np.column_stack([x.ravel(), y.ravel()])
        if self.lattice is not None:
            level = np.column_stack([self.to_corrected(photo), np.ones(len(photo))])
            return Mesh(columns, rows, level.reshape(rows + 1, columns + 1, 3))
        ideal = self.lens.undistorted(photo)
        if not self.lens.straight:
            beyond = np.logical_not(self.lens.within_reach(ideal))
            away = photo[beyond] - self.lens.centre
            reach = self.lens.reach * self.lens.unit_px / np.linalg.norm(away, axis=1)
            ideal[beyond] = self.lens.centre + away * reach[:, None]
        vertices = ideal @ self.homography[:, :2].T + self.homography[:, 2]
        return Mesh(columns, rows, vertices.reshape(rows + 1, columns + 1, 3))

    def at_scale(self, scale: float) -> Mapping:
        """The same map for a copy of the photo reduced or enlarged by ``scale``, its output likewise."""
        resize = np.diag([scale, scale, 1.0])
        return Mapping(
            round(self.width * scale),
            round(self.height * scale),
            resize @ self.homography @ np.linalg.inv(resize),
            self.lens.scaled(scale),
            self.lattice and self.lattice.scaled((scale, scale), scale),
        )

    def resized(self, across: float, down: float) -> Mapping:
        """The same map with its output so many times as wide and as high; the photo stays."""
        lattice = self.lattice and self.lattice.scaled((across, down), 1.0)
        return replace(self, homography=np.diag([across, down, 1.0]) @ self.homography, lattice=lattice)

    def _depth(self, ideal: Array) -> Array:
        """The third coordinate (N,) that ideal pixels (N, 2) are carried to."""
        return np.asarray(ideal @ self.homography[2, :2] + self.homography[2, 2])

    def _bent_border(self) -> Array:
        """The photo's edge in ideal pixels (N, 2), as far as the lens reaches."""
        share = np.linspace(0, 1, BORDER_POINTS, endpoint=False)[:, None]
        corners = photo_corners(self.width, self.height)
        sides = zip(corners, np.roll(corners, -1, axis=0), strict=True)
        border = np.concatenate([here + share * (there - here) for here, there in sides])
        if np.isfinite(self.lens.reach):
            around = np.linspace(0, 2 * np.pi, 4 * BORDER_POINTS, endpoint=False)
            circle = self.lens.reach * self.lens.unit_px * np.column_stack([np.cos(around), np.sin(around)])
            limit = shapely.Polygon(self.lens.distorted(circle + self.lens.centre))
            whole = shapely.Polygon(border)
            if not limit.contains(whole):
                border = np.asarray(limit.intersection(whole).exterior.coords)[:-1]
        return self.lens.undistorted(border)


def photo_corners(width: float, height: float) -> Array:
    """The (4, 2) corners of a photo, clockwise from the top left."""
    return np.array([[0.0, 0.0], [width, 0.0], [width, height], [0.0, height]])


def _cut(polygon: Array, depth: Array) -> Array:
    """The part of a polygon (N, 2) where a linear function, (N,) at its corners, is not negative.

    Sutherland and Hodgman's step (I. E. Sutherland, G. W. Hodgman, *Reentrant Polygon Clipping*, Comm. ACM
    17, 1974); the parts that a polygon that is not convex falls into stay joined along the cut.
    """
    kept = []
    for index, here in enumerate(depth):
        point, following = polygon[index], polygon[(index + 1) % len(polygon)]
        there = depth[(index + 1) % len(polygon)]
        if here >= 0:
            kept.append(point)
        if here * there < 0:
            kept.append(point + here / (here - there) * (following - point))
    return np.array(kept)


def _apply(matrix: Array, points: Array) -> Array:
    carried = points @ matrix[:, :2].T + matrix[:, 2]
    result: Array = carried[:, :2] / carried[:, 2:]
    return result
