"""What a displacement of a wide view costs without any wish: everything that is worked out once.

The field keeps every small shape as the base view has it (Cauchy and Riemann's equations on the sphere, of
the change: R. Carroll, M. Agrawala, A. Agarwala, *Optimizing Content-Preserving Projections for Wide-Angle
Images*, ACM Trans. Graph. 28 (3), SIGGRAPH 2009, eq. 4), bends little, and is small; what is upright in the
world stays so, as firmly as that is asked for; straight things that were found are led along weakly; and the
photo's border may be kept a rectangle. All of that is one sparse linear least squares problem in the field's
weights."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from sequor.core.camera import Array, Indices
from sequor.core.rectangle import Rectangle
from sequor.core.warp.wide.exact import Exact
from sequor.core.warp.wide.field import Field, product
from sequor.core.warp.wide.sphere import on_sphere
from sequor.core.warp.wide.wish import arcs

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix

CELLS = 24
"""On the longer side: the knee of error against time."""

SHAPE, BEND, FOLLOW, HOLD = 1.0, 0.01, 0.01, 0.003
"""What counts how much: that shapes are kept, that the field bends, that it changes, that it moves at all."""

FOUND, WALL = 30.0, 1e5
"""Straight things that were found, and the border that is kept a rectangle."""

FOUND_POINTS = 9
"""Points along each of them."""

OUTSIDE = 0.02
"""What a place beyond the photo counts."""

LOOKED_AT = 3
"""Places along a cell's side at which it is looked for a fold."""

SECONDS = ((2, 0, 1.0), (0, 2, 1.0), (1, 1, 2.0))
"""The second derivatives across and down, and how often each counts (the thin plate)."""


@dataclass(frozen=True, eq=False)
class Ground:
    """``inverse`` (2N, 2N) of the normal matrix, ``rest`` (2N,) its solution without a wish, ``field`` the
    cells with nothing in them; x and y of each weight in turn, counted in cells."""

    exact: Exact
    field: Field
    inverse: Array
    rest: Array

    @cached_property
    def unasked(self) -> Field:
        """The field without a wish."""
        return self.filled(self.rest)

    @cached_property
    def watched(self) -> Array:
        """Points (N, 2) of the base view, on the photo and a cell about it, at which a field may fold."""
        field, exact = self.field, self.exact
        x, y = (np.linspace(0, count, LOOKED_AT * count + 1) for count in field.cells)
        points = np.column_stack([one.ravel() for one in np.meshgrid(x, y)]) * field.cell
        points = points + [field.x, field.y]
        room = max(exact.size) / CELLS
        on_photo = exact.photo_of(exact.view.to_level(points))
        with np.errstate(invalid="ignore"):
            near = np.all((on_photo >= -room) & (on_photo <= np.array(exact.size) + room), axis=1)
        return np.asarray(points[near & np.isfinite(on_photo).all(axis=1)])

    def filled(self, weights: Array) -> Field:
        """The field of a solution (2N,)."""
        return replace(self.field, weights=weights.reshape(self.field.weights.shape) * self.field.cell)


@dataclass
class _Sum:
    """A normal matrix and its right side while rows are added."""

    matrix: csr_matrix
    right: Array

    def add(self, rows: Array, places: Indices, wanted: Array | None = None) -> None:
        """Rows (N, k) with their unknowns' places (N, k), and what their products are to be (N,), 0 unless
        given."""
        from scipy.sparse import csr_matrix

        count, each = rows.shape
        starts = np.arange(0, count * each + 1, each)
        matrix = csr_matrix((rows.ravel(), places.ravel(), starts), (count, len(self.right)))
        self.matrix = self.matrix + matrix.T @ matrix
        if wanted is not None:
            self.right = self.right + matrix.T @ wanted


def ground_for(
    exact: Exact, outline: Array, uprights: float, found: Array, rectangle: Rectangle | None
) -> Ground:
    """The ground of a view whose photo has this outline (N, 2) in the base view.

    ``uprights``: how firmly uprights are kept; ``found`` (N, 2, 3) ends of straight things as level rays;
    ``rectangle``: what the photo's border is to be, None where it is free.
    """
    from scipy.sparse import csr_matrix

    low, high = outline.min(axis=0), outline.max(axis=0)
    cell = float((high - low).max()) / CELLS
    columns, rows = (int(np.ceil(side / cell - 1e-9)) for side in high - low)
    field = Field(float(low[0]), float(low[1]), cell, np.zeros((rows + 3, columns + 3, 2)))
    size = field.weights.size
    total = _Sum(csr_matrix((size, size)), np.zeros(size))
    _add_shapes(total, exact, field, uprights)
    if len(found):
        _add_found(total, exact, field, found)
    if rectangle is not None:
        _add_border(total, exact, field, rectangle)
    inverse = np.linalg.inv(total.matrix.toarray())
    return Ground(exact, field, inverse, inverse @ total.right)


def rows_at(field: Field, points: Array) -> tuple[Indices, Array]:
    """For points (N, 2) the places of their 16 weights among those of one axis, and what each counts."""
    at, across, down = field.basis(points)
    return at, product(across, down, 0, 0)


def _add_shapes(total: _Sum, exact: Exact, field: Field, uprights: float) -> None:
    columns, rows = field.cells
    x, y = np.meshgrid((np.arange(2 * columns) + 0.5) / 2, (np.arange(2 * rows) + 0.5) / 2)
    points = np.column_stack([x.ravel(), y.ravel()]) * field.cell + [field.x, field.y]
    rays = exact.view.to_level(points)
    inside = exact.on_photo(exact.photo_of(rays))
    share = np.where(inside, 1.0, OUTSIDE) / max(int(inside.sum()), 1)
    slopes = on_sphere(exact.view.from_level, rays, exact.down)
    slopes = slopes / np.sqrt(np.maximum(np.abs(np.linalg.det(slopes)), 1e-12))[:, None, None]
    slopes[~inside] = np.eye(2)
    at, across, down = field.basis(points)
    by_x, by_y = product(across, down, 1, 0), product(across, down, 0, 1)
    right = by_x * slopes[:, :1, 0] + by_y * slopes[:, 1:, 0]
    below = by_x * slopes[:, :1, 1] + by_y * slopes[:, 1:, 1]
    zero = np.zeros_like(right)
    parts = [(SHAPE, right, -below), (SHAPE, below, right)]
    thin = [(BEND * often * CELLS**2 / 16, product(across, down, i, j)) for i, j, often in SECONDS]
    thin += [(FOLLOW, by_x), (FOLLOW, by_y), (HOLD, product(across, down, 0, 0) / CELLS)]
    parts += [part for weight, one in thin for part in ((weight, one, zero), (weight, zero, one))]
    places = np.hstack([2 * at, 2 * at + 1])
    stacked = [np.sqrt(share * weight)[:, None] * np.hstack([one, other]) for weight, one, other in parts]
    total.add(np.vstack(stacked), np.vstack([places] * len(stacked)))
    if uprights > 0:
        # Less so towards the zenith, where uprights meet.
        root = np.sqrt(uprights * (1 - (rays @ exact.down) ** 2) * share * inside)
        total.add(root[:, None] * below, 2 * at, -root * slopes[:, 0, 1])


def _add_found(total: _Sum, exact: Exact, field: Field, found: Array) -> None:
    """Straight things stay as straight as they can, in no direction that is asked for."""
    rays = arcs(found, np.linspace(0, 1, FOUND_POINTS)).reshape(-1, 3)
    points = exact.view.from_level(rays).reshape(-1, FOUND_POINTS, 2)
    chord = points[:, -1] - points[:, 0]
    length = np.linalg.norm(chord, axis=1)
    usable = np.isfinite(length) & (length > field.cell / 2)
    points, chord, length = points[usable], chord[usable], length[usable]
    if not len(points):
        return
    at, by = (one.reshape(-1, FOUND_POINTS, 16) for one in rows_at(field, points.reshape(-1, 2)))
    # Each counts for its length; a second difference over half a cell is what is meant.
    root = 4 * np.sqrt(FOUND * length / field.cell / CELLS**2 / (FOUND_POINTS - 2))
    root *= ((field.cell / 2) / (length / (FOUND_POINTS - 1))) ** 2
    square_to = np.column_stack([-chord[:, 1], chord[:, 0]]) / length[:, None]
    along_three = ((slice(None, -2), 1.0), (slice(1, -1), -2.0), (slice(2, None), 1.0))
    count = len(points) * (FOUND_POINTS - 2)
    parts = [
        (often * root[:, None, None] * square_to[:, None, axis, None] * by[:, three], 2 * at[:, three] + axis)
        for three, often in along_three
        for axis in (0, 1)
    ]
    second = points[:, :-2] - 2 * points[:, 1:-1] + points[:, 2:]
    bent = root[:, None] * np.einsum("nkc,nc->nk", second, square_to) / field.cell
    rows, places = (np.concatenate([part[i].reshape(count, 16) for part in parts], axis=1) for i in (0, 1))
    total.add(rows, places, -bent.ravel())


def _add_border(total: _Sum, exact: Exact, field: Field, rectangle: Rectangle) -> None:
    """The photo's sides lie on those of a rectangle."""
    width, height = exact.size
    share = np.linspace(0, 1, 3 * max(field.cells))
    none, all_across, all_down = np.zeros_like(share), width * share, height * share
    sides: Sequence[tuple[int, float, Array, Array]] = (
        (0, rectangle.x, none, all_down),
        (0, rectangle.right, none + width, all_down),
        (1, rectangle.y, all_across, none),
        (1, rectangle.bottom, all_across, none + height),
    )
    for axis, value, x, y in sides:
        points = exact.base_of(np.column_stack([x, y]))
        at, by = rows_at(field, points)
        root = float(np.sqrt(WALL / len(share)))
        total.add(root * by, 2 * at + axis, root * (value - points[:, axis]) / field.cell)
