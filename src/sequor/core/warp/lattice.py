"""A lattice of points over a rectangle, bilinear in each cell: how one plane is carried to another."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from sequor.core.camera import Array, Indices
from sequor.core.rectangle import Rectangle

STEPS = 40
NEAR = 1e-10
"""Of the longer side of the rectangle: how near an inverse must come."""


@dataclass(frozen=True, eq=False)
class Lattice:
    """``values`` (rows + 1, columns + 1, 2): where the lattice's nodes over ``area`` lie in the other plane.

    Beyond the rectangle its outermost cells go on.
    """

    area: Rectangle
    values: Array

    @property
    def cells(self) -> tuple[int, int]:
        """Columns and rows of cells."""
        return self.values.shape[1] - 1, self.values.shape[0] - 1

    @property
    def nodes(self) -> Array:
        """The nodes (rows + 1, columns + 1, 2) in the rectangle."""
        columns, rows = self.cells
        across = np.linspace(self.area.x, self.area.right, columns + 1)
        down = np.linspace(self.area.y, self.area.bottom, rows + 1)
        return np.stack(np.meshgrid(across, down), axis=-1)

    def within(self, points: Array) -> tuple[Indices, Array]:
        """For points (N, 2) the four nodes about each, as places (N, 4) in the flattened lattice, and what
        each of them has to say, (N, 4)."""
        column, row, u, v = self._place(points)
        first = row * self.values.shape[1] + column
        around = np.stack([first, first + 1, first + self.values.shape[1], first + self.values.shape[1] + 1])
        shares = np.stack([(1 - u) * (1 - v), u * (1 - v), (1 - u) * v, u * v])
        return around.T, shares.T

    def at(self, points: Array) -> Array:
        """Points (N, 2) carried to the other plane."""
        return self.with_slopes(points)[0]

    def with_slopes(self, points: Array) -> tuple[Array, Array]:
        """Points (N, 2) carried to the other plane, and the derivative (N, 2, 2) there: column 0 along x,
        column 1 along y."""
        column, row, u, v = self._place(points)
        first = row * self.values.shape[1] + column
        nodes = self.values.reshape(-1, 2)
        a, b = nodes[first], nodes[first + 1]
        c, d = nodes[first + self.values.shape[1]], nodes[first + self.values.shape[1] + 1]
        wide, high = self._cell
        u, v = u[:, None], v[:, None]
        across, below = b - a, d - c
        down = c - a + u * (below - across)
        along = across + v * (below - across)
        return a + u * across + v * down, np.stack([along / wide, down / high], axis=-1)

    def inverse(self, values: Array, start: Array) -> Array:
        """The points (N, 2) of the rectangle that are carried to ``values``; Newton's method from ``start``.

        What is NaN stays NaN, and what cannot be reached becomes it. A lattice that does not fold has one
        such point each.
        """
        points = start.copy()
        left = np.nonzero(np.isfinite(values).all(axis=1) & np.isfinite(start).all(axis=1))[0]
        limit = NEAR * max(self.area.width, self.area.height)
        for _ in range(STEPS):
            if not len(left):
                break
            here, slopes = self.with_slopes(points[left])
            step = steps_by(slopes, values[left] - here)
            points[left] += step
            left = left[np.abs(step).max(axis=1) > limit]
        return points

    def scaled(self, sides: tuple[float, float], values: float) -> Lattice:
        """The same with its rectangle so many times as wide and high, and what it is carried to resized."""
        area, (across, down) = self.area, sides
        larger = Rectangle(area.x * across, area.y * down, area.width * across, area.height * down)
        return Lattice(larger, self.values * values)

    @property
    def folds(self) -> bool:
        """Whether a cell is turned over at one of its corners: a bilinear cell then folds."""
        right, down = np.diff(self.values, axis=1), np.diff(self.values, axis=0)
        corners = [
            along[..., 0] * across[..., 1] - along[..., 1] * across[..., 0]
            for along in (right[:-1], right[1:])
            for across in (down[:, :-1], down[:, 1:])
        ]
        return bool(min(float(each.min()) for each in corners) <= 0)

    @property
    def _cell(self) -> tuple[float, float]:
        columns, rows = self.cells
        return self.area.width / columns, self.area.height / rows

    def _place(self, points: Array) -> tuple[Indices, Indices, Array, Array]:
        """Column and row of the cell of each point, and where in it the point lies."""
        columns, rows = self.cells
        wide, high = self._cell
        across, down = (points[:, 0] - self.area.x) / wide, (points[:, 1] - self.area.y) / high
        column = np.clip(np.floor(across), 0, columns - 1).astype(np.intp)
        row = np.clip(np.floor(down), 0, rows - 1).astype(np.intp)
        return column, row, across - column, down - row


def steps_by(slopes: Array, off: Array) -> Array:
    """The steps (N, 2) that slopes (N, 2, 2) carry to ``off`` (N, 2); NaN where they carry nowhere."""
    a, b, c, d = slopes[:, 0, 0], slopes[:, 0, 1], slopes[:, 1, 0], slopes[:, 1, 1]
    with np.errstate(divide="ignore", invalid="ignore"):
        by = 1 / (a * d - b * c)
        found = np.column_stack([d * off[:, 0] - b * off[:, 1], a * off[:, 1] - c * off[:, 0]]) * by[:, None]
    return np.where(np.isfinite(found), found, np.nan)
