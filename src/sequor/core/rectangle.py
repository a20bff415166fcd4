"""An upright rectangle in corrected pixels: what a frame is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from sequor.core.camera import Array

TOUCH = 1e-6
"""Corrected pixels by which a rectangle may reach over the outline and still counts as inside."""

MIDDLE = (0.5, 0.5)


@dataclass(frozen=True)
class Rectangle:
    """An upright rectangle in corrected pixels: (x, y) its top left corner."""

    x: float
    y: float
    width: float
    height: float

    @property
    def centre(self) -> Array:
        """The centre (2,) in corrected pixels."""
        return self.at(*MIDDLE)

    @property
    def right(self) -> float:
        """x of the right side."""
        return self.x + self.width

    @property
    def bottom(self) -> float:
        """y of the lower side."""
        return self.y + self.height

    def at(self, across: float, down: float) -> Array:
        """The point (2,) that lies at these shares of the width and the height."""
        return np.array([self.x + across * self.width, self.y + down * self.height])

    def contains(self, other: Rectangle, tolerance: float = TOUCH) -> bool:
        """Whether the other lies inside, touching allowed."""
        return (
            other.x >= self.x - tolerance
            and other.y >= self.y - tolerance
            and other.right <= self.right + tolerance
            and other.bottom <= self.bottom + tolerance
        )

    def of_ratio(self, ratio: tuple[float, float]) -> Rectangle:
        """The largest of a ratio width : height that lies in it about the same centre."""
        scale = min(self.width / ratio[0], self.height / ratio[1])
        return Rectangle.about(self.centre, ratio[0] * scale, ratio[1] * scale)

    @classmethod
    def about(
        cls, point: Array, width: float, height: float, shares: tuple[float, float] = MIDDLE
    ) -> Rectangle:
        """The rectangle of this size in which a point (2,) lies at these shares of width and height."""
        return cls(float(point[0]) - shares[0] * width, float(point[1]) - shares[1] * height, width, height)

    @classmethod
    def between(cls, points: Array) -> Rectangle:
        """The smallest one that holds all points (N, 2)."""
        low, high = points.min(axis=0), points.max(axis=0)
        return cls(float(low[0]), float(low[1]), float(high[0] - low[0]), float(high[1] - low[1]))

    def inwards(self, shares: tuple[float, float] = MIDDLE) -> Rectangle:
        """The same with whole pixels, never larger, never under one; the point at these shares stays."""
        width, height = (max(1.0, float(np.floor(side + TOUCH))) for side in (self.width, self.height))
        return Rectangle.about(self.at(*shares), width, height, shares)
