"""The one map between the photo and the corrected picture, used by everybody.

Preview mesh, magnifier, outline, frame and export all come from a :class:`Warp`; nothing derives the
correction again. Corrected pixels are defined by docs/geometry.md: the photo's centre keeps its coordinates
and its area scale 1 there; they may be negative. Three frames follow one another: photo pixels as recorded,
ideal ones (the bending of the lens taken out), corrected ones (turned level by a homography).
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass
from functools import cached_property
from typing import Self

import numpy as np

from sequor.core.camera import Array
from sequor.core.distortion.models import STRONGEST_SCALE, Lens
from sequor.core.rectangle import Rectangle
from sequor.core.warp.locate import Compiled

NEAREST_DEPTH = STRONGEST_SCALE ** (-2 / 3)
"""The same as a limit of the homography's third coordinate w: the area scale is 1 / w^3."""


@dataclass(frozen=True)
class PreviewMesh:
    """A grid of photo points carried to the corrected picture.

    ``vertices`` is (rows + 1, columns + 1, 3), homogeneous corrected pixels (X, Y, W); vertex (i, j)
    belongs to the photo point (j / columns * width, i / rows * height). Where W is under ``NEAREST_DEPTH``
    nothing is drawn. Beyond the lens's reach a vertex lies where the path to it from the centre ends.
    """

    columns: int
    rows: int
    vertices: Array


@dataclass(frozen=True)
class Warp(ABC):
    """A correction of a photo of ``width`` x ``height`` pixels, recorded by ``lens``."""

    width: int
    height: int
    lens: Lens

    @property
    @abstractmethod
    def straight(self) -> bool:
        """Whether straight things in the photo are straight in the corrected picture."""

    @property
    @abstractmethod
    def cuts(self) -> bool:
        """Whether a part of the photo lies beyond what the warp can show."""

    @abstractmethod
    def to_corrected(self, points: Array) -> Array:
        """Corrected pixels (N, 2) of photo pixels (N, 2); NaN where the lens records nothing."""

    @abstractmethod
    def turned(self, ideal: Array) -> Array:
        """Corrected pixels (N, 2) of ideal pixels (N, 2), from which the bending is taken out already."""

    @abstractmethod
    def to_photo(self, points: Array) -> Array:
        """Photo pixels (N, 2) of corrected pixels (N, 2)."""

    @abstractmethod
    def to_ideal(self, points: Array) -> Array:
        """Ideal pixels (N, 2) of corrected pixels (N, 2), beyond the photo too."""

    def outline(self) -> Array:
        """The edge of the corrected picture: (N, 2) corrected pixels, clockwise, from the photo's top left if
        that is shown. A convex polygon of at most five corners while nothing bends it, else a fine polygon
        that need not be convex."""
        return self._outline

    @cached_property
    def _outline(self) -> Array:
        return self._edge()

    @abstractmethod
    def _edge(self) -> Array:
        """The outline, worked out."""

    @property
    def own_size(self) -> Rectangle:
        """The rectangle that the photo's own border would be, were nothing turned or bent."""
        return Rectangle(0.0, 0.0, float(self.width), float(self.height))

    @abstractmethod
    def mesh(self) -> PreviewMesh:
        """The mesh the preview is drawn from."""

    @abstractmethod
    def at_scale(self, scale: float) -> Self:
        """The same for a copy of the photo reduced or enlarged by ``scale``, its output likewise."""

    @abstractmethod
    def resized(self, across: float, down: float) -> Self:
        """The same with its output so many times as wide and as high; the photo stays."""

    @abstractmethod
    def compiled(self) -> Compiled:
        """The same as numbers for :func:`sequor.core.warp.locate.locate`, the form of inner loops."""


def grid_over(width: float, height: float, columns: int, rows: int) -> Array:
    """The nodes ((rows + 1) (columns + 1), 2) of a regular grid over a rectangle, row by row."""
    x, y = np.meshgrid(np.linspace(0, width, columns + 1), np.linspace(0, height, rows + 1))
    return np.column_stack([x.ravel(), y.ravel()])
