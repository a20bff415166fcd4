"""A smooth displacement of a plane: uniform cubic B-splines on square cells.

C. de Boor, *A Practical Guide to Splines*, 1978 (the uniform basis, from memory; the tests hold it against
``scipy.interpolate.BSpline``). Beyond its cells the field goes on for one, then it holds.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from sequor.core.camera import Array, Indices

BEYOND = 1.0
"""Cells over which it goes on."""


@dataclass(frozen=True, eq=False)
class Field:
    """Cells of ``cell`` pixels from (x, y) on, ``weights`` (rows + 3, columns + 3, 2) in pixels."""

    x: float
    y: float
    cell: float
    weights: Array

    @property
    def cells(self) -> tuple[int, int]:
        """Columns and rows."""
        return self.weights.shape[1] - 3, self.weights.shape[0] - 3

    def basis(self, points: Array) -> tuple[Indices, Array, Array]:
        """For points (N, 2) the 16 weights of each, as places (N, 16) in the flattened field, and what counts
        of them across and down: values and derivatives by cells, (3, N, 4) each."""
        columns, rows = self.cells
        u, v = (points[:, 0] - self.x) / self.cell, (points[:, 1] - self.y) / self.cell
        column = np.clip(np.floor(u), 0, columns - 1).astype(np.intp)
        row = np.clip(np.floor(v), 0, rows - 1).astype(np.intp)
        four = np.arange(4)
        at = (row[:, None] + four)[:, :, None] * (columns + 3) + (column[:, None] + four)[:, None, :]
        across, down = (_splines(np.clip(one, -BEYOND, 1 + BEYOND)) for one in (u - column, v - row))
        return at.reshape(len(points), 16), across, down

    def __call__(self, points: Array) -> Array:
        """The displacement (N, 2) at points (N, 2), in pixels."""
        at, across, down = self.basis(points)
        return self._summed(at, product(across, down, 0, 0))

    def slopes(self, points: Array) -> Array:
        """Its derivative (N, 2, 2): column 0 along x, column 1 along y."""
        at, across, down = self.basis(points)
        parts = [self._summed(at, product(across, down, *by)) for by in ((1, 0), (0, 1))]
        found: Array = np.stack(parts, axis=-1) / self.cell
        return found

    def towards(self, other: Field, share: float) -> Field:
        """The field that lies so far on the way to another of the same cells."""
        return replace(self, weights=self.weights + share * (other.weights - self.weights))

    def _summed(self, at: Indices, by: Array) -> Array:
        return np.asarray(np.einsum("nk,nkc->nc", by, self.weights.reshape(-1, 2)[at]))


def product(across: Array, down: Array, x: int, y: int) -> Array:
    """What counts of the 16 weights (N, 16): derivatives of that order across and down."""
    return np.asarray((down[y][:, :, None] * across[x][:, None, :]).reshape(len(across[x]), 16))


def _splines(t: Array) -> Array:
    """The four splines at t in a cell, their first and second derivatives: (3, N, 4)."""
    square, one = t * t, np.ones_like(t)
    values = [(1 - t) ** 3, 3 * square * t - 6 * square + 4, 3 * (square + t - square * t) + 1, square * t]
    slopes = [-((1 - t) ** 2), 3 * square - 4 * t, 2 * t - 3 * square + one, square]
    bends = [1 - t, 3 * t - 2, 1 - 3 * t, t]
    return np.stack(
        [np.stack(values, -1) / 6, np.stack(slopes, -1) / 2, np.stack(bends, -1)],
    )
