"""Reshape: level without cutting anything off or making anything up; parts are stretched instead.

A mesh is laid over the photo. Its border stays the photo's rectangle, its inside follows the correction:
strictly where lines are marked, as well as it can where segments were found and in the middle, and it gives
way where nothing shows it. All of that is a sparse linear least squares problem in the corners of the mesh.

K. He, H. Chang, J. Sun, *Content-Aware Rotation*, ICCV 2013 (energies of shape, lines and border); the same,
*Rectangling Panoramic Images via Warping*, SIGGRAPH 2013 (a border that is no rectangle before). Where they
let lines of like direction share an angle, here each follows the correction, whose angles are known. So that
no part stretches much more than the others, a cell that does counts for more, and it is solved again
(iteratively reweighted least squares for a high norm: Å. Björck, *Numerical Methods for Least Squares
Problems*, SIAM 1996, section 4.5).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from sequor.core.camera import Array, Indices
from sequor.core.rectangle import Rectangle
from sequor.core.warp.base import NEAREST_DEPTH
from sequor.core.warp.homography import PlainWarp
from sequor.core.warp.lattice import Lattice, steps_by
from sequor.core.warp.reshaped import ReshapedWarp

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix

COLUMNS = 16
FEWEST = 6
"""Cells of the mesh across the photo, and at least in either direction."""

FINE = 240
"""Cells along the longer side of the lattice that the mesh is carried over to."""

FOLLOW = 8.0
MARKED = 3e4
FOUND = 12.0
"""What counts how much against a cell that keeps its shape: its sides are turned with the correction; marked
lines and found segments stay straight and turn with it. For an error as large as a cell is wide."""

DEEP = 0.5
"""Of half the shorter side: from there inwards the mesh follows the correction in full."""

ROUNDS = 12
NORM = 5.0
DAMPED = 0.3
EVEN = 0.02
"""Stretches under that are all alike,"""
WEIGHED = (1e-2, 1e4)
"""and one cell counts for so much at least and at most."""

ROOM = 0.05
"""Of half the shorter side: a line that keeps nearer to the border counts for less."""

PIECES = 3
"""Points of a line for each cell that it is long."""


Entries = tuple[Indices, Array]
"""Rows of a sparse matrix, (N, k): the unknowns in each, and with which factors."""


class CannotReshapeError(ValueError):
    """The picture cannot be brought into the rectangle without folding over."""


@dataclass(frozen=True)
class Marked:
    """A line that must follow the correction: its points (N, 2) in photo pixels, and how much it counts."""

    points: Array
    weight: float = 1.0


@dataclass(frozen=True)
class Reshaped:
    """The map with the mesh in it, and what it does to the picture.

    ``stretch`` (rows, columns): for each cell of a regular grid over the reshaped picture how many times as
    much as across it is stretched along, at least 1.
    """

    warp: ReshapedWarp
    stretch: Array

    @property
    def greatest(self) -> float:
        """The greatest local stretch, at least 1."""
        return float(self.stretch.max())


def reshape(warp: PlainWarp, marked: list[Marked], segments: Array, proportion: float = 1.0) -> Reshaped:
    """The map of a correction made to fill its rectangle.

    ``warp`` is the plain correction. ``segments`` (N, 2, 2) are ends of straight things in photo pixels.
    The rectangle is the photo's, its height : width multiplied by ``proportion`` and its area kept. Raises
    CannotReshapeError.
    """
    mesh = Mesh.over(warp, proportion)
    problem = Problem(mesh, marked, segments)
    shares = np.ones(mesh.count)
    for _ in range(ROUNDS):
        corners = problem.solve(shares)
        stretch = mesh.stretch(corners)
        even = ((stretch - 1 + EVEN) / (stretch.mean() - 1 + EVEN)) ** (NORM - 2)
        shares = shares ** (1 - DAMPED) * np.clip(even, *WEIGHED) ** DAMPED
    return mesh.carried_over(corners)


@dataclass(frozen=True, eq=False)
class Mesh:
    """The mesh over a photo: its nodes (``photo``), where the correction alone carries them (``corrected``),
    their numbers (rows + 1, columns + 1), the four about each cell, and the rectangle that it is to fill."""

    warp: PlainWarp
    photo: Lattice
    corrected: Array
    number: Indices
    around: Indices
    target: Rectangle

    @classmethod
    def over(cls, warp: PlainWarp, proportion: float = 1.0) -> Mesh:
        """The mesh of a photo. Raises CannotReshapeError when a part of it is beyond what the map shows."""
        columns = max(FEWEST, round(COLUMNS * min(1.0, warp.width / warp.height)))
        rows = max(FEWEST, round(COLUMNS * min(1.0, warp.height / warp.width)))
        area = Rectangle(0.0, 0.0, float(warp.width), float(warp.height))
        photo = Lattice(area, np.zeros((rows + 1, columns + 1, 2)))
        nodes = photo.nodes.reshape(-1, 2)
        ideal = warp.lens.undistorted(nodes)
        if not np.all(warp.depth(ideal) >= NEAREST_DEPTH):
            raise CannotReshapeError("part of the picture is turned too far to be shown")
        number = np.arange(len(nodes)).reshape(rows + 1, columns + 1)
        around = np.stack([number[:-1, :-1], number[:-1, 1:], number[1:, :-1], number[1:, 1:]], axis=-1)
        corrected = warp.turned(ideal)
        by = float(np.sqrt(proportion))
        target = Rectangle.about(area.centre, area.width / by, area.height * by)
        return cls(warp, photo, corrected, number, around.reshape(-1, 4), target)

    @property
    def count(self) -> int:
        """Cells."""
        return len(self.around)

    def inside(self, points: Array) -> Array:
        """How far photo points (N, 2) lie from the border, in halves of the shorter side, (N,)."""
        area = self.photo.area
        away = np.minimum(points, [area.right, area.bottom] - points).min(axis=1)
        return np.asarray(away / (min(area.width, area.height) / 2))

    @property
    def size(self) -> float:
        """The side of a cell in pixels."""
        columns, rows = self.photo.cells
        return float(np.sqrt(self.target.width * self.target.height / (columns * rows)))

    def stretch(self, corners: Array) -> Array:
        """How many times as much as across each cell is stretched along, against the corrected picture: the
        greatest at its corners and in its middle (cells,)."""
        before, after = self.corrected[self.around], corners[self.around]
        worst = np.ones(self.count)
        for u, v in ((0.5, 0.5), (0, 0), (1, 0), (0, 1), (1, 1)):
            by = np.array([[v - 1, u - 1], [1 - v, -u], [-v, 1 - u], [v, u]])
            was, now = (np.swapaxes(each, 1, 2) @ by for each in (before, after))
            worst = np.maximum(worst, _aspect(now @ np.linalg.inv(was)))
        return worst

    def carried_over(self, corners: Array) -> Reshaped:
        """The mesh as a fine lattice over the rectangle. Raises CannotReshapeError when it folds."""
        to = Lattice(self.photo.area, corners.reshape(self.photo.values.shape))
        if to.folds:
            raise CannotReshapeError("the picture would overlap itself")
        moved = Lattice(self.photo.area, to.values - self.corrected.reshape(to.values.shape))
        longer = max(self.target.width, self.target.height)
        columns, rows = (
            max(FEWEST, round(FINE * side / longer)) for side in (self.target.width, self.target.height)
        )
        fine = Lattice(self.target, np.zeros((rows + 1, columns + 1, 2)))
        wanted = fine.nodes.reshape(-1, 2)
        on_photo = to.inverse(wanted, self._straight_across(wanted))
        for _ in range(3):
            # Between the nodes of the mesh the lens and the perspective go on bending.
            off = wanted - self.warp.to_corrected(on_photo) - moved.at(on_photo)
            on_photo += steps_by(to.with_slopes(on_photo)[1], off)
        values = on_photo.reshape(rows + 1, columns + 1, 2)
        values[:, 0, 0], values[:, -1, 0] = 0.0, self.warp.width
        values[0, :, 1], values[-1, :, 1] = 0.0, self.warp.height
        lattice = Lattice(self.target, values)
        if not np.all(np.isfinite(values)) or lattice.folds:
            raise CannotReshapeError("the picture would overlap itself")
        warp = ReshapedWarp(self.warp.width, self.warp.height, self.warp.lens, lattice)
        return Reshaped(warp, self._stretches(lattice))

    def _stretches(self, lattice: Lattice) -> Array:
        """How much each cell of a fine lattice is stretched against the corrected picture."""
        corrected = self.warp.to_corrected(lattice.values.reshape(-1, 2)).reshape(lattice.values.shape)
        right, down = np.diff(corrected, axis=1), np.diff(corrected, axis=0)
        columns, rows = lattice.cells
        along = (right[:-1] + right[1:]) / 2 / (self.target.width / columns)
        across = (down[:, :-1] + down[:, 1:]) / 2 / (self.target.height / rows)
        found = _aspect(np.stack([along, across], axis=-1).reshape(-1, 2, 2))
        return found.reshape(rows, columns)

    def _straight_across(self, points: Array) -> Array:
        """Points of the rectangle on the photo, were it only moved and scaled."""
        share = (points - [self.target.x, self.target.y]) / [self.target.width, self.target.height]
        return np.asarray(share * [self.warp.width, self.warp.height])


class Problem:
    """The energies of a mesh: rows of a sparse matrix whose products with the unknowns are to be small.

    Unknowns are the corners, x and y in turn, then an offset for each line. ``shapes`` has eight rows for
    each cell, ``rest`` the others.
    """

    def __init__(self, mesh: Mesh, marked: list[Marked], segments: Array) -> None:
        self.mesh = mesh
        lines = [(line.points, MARKED * line.weight) for line in marked] + [
            (ends, FOUND) for ends in segments
        ]
        parts = [self._following()]
        for number, (points, weight) in enumerate(lines):
            line = self._line(points, weight, 2 * len(mesh.corrected) + number)
            parts += [] if line is None else [line]
        unknowns = 2 * len(mesh.corrected) + len(lines)
        self.shapes = _matrix([self._shapes()], unknowns)
        self.rest = _matrix(parts, unknowns)
        bound, known = self._border()
        values, free = np.zeros(unknowns), np.ones(unknowns, np.bool_)
        values[bound], free[bound] = known, False
        # A line that cannot be followed has an offset that nothing determines.
        free[2 * len(mesh.corrected) :] = np.diff(self.rest.tocsc().indptr)[2 * len(mesh.corrected) :] > 0
        self._values, self._free = values, free
        self._shapes_free, self._shapes_known = self.shapes[:, free], self.shapes @ values
        rest = self.rest[:, free]
        self._rest_squared, self._rest_known = rest.T @ rest, rest.T @ (self.rest @ values)

    def solve(self, shares: Array) -> Array:
        """The corners (N, 2) for which it is least, those of the border on the rectangle.

        ``shares`` (cells,) weigh the shapes.
        """
        from scipy.sparse.linalg import spsolve  # heavy, and needed for a reshape alone

        weighed = self._shapes_free.multiply(np.repeat(shares, 8)[:, None]).T.tocsr()
        normal = (weighed @ self._shapes_free + self._rest_squared).tocsc()
        values = self._values.copy()
        values[self._free] = spsolve(normal, -(weighed @ self._shapes_known + self._rest_known))
        return values[: 2 * len(self.mesh.corrected)].reshape(-1, 2)

    def _border(self) -> tuple[Indices, Array]:
        """The unknowns that are known, and their values."""
        target = self.mesh.target
        number = self.mesh.number
        sides = [
            (2 * number[:, 0], target.x),
            (2 * number[:, -1], target.right),
            (2 * number[0] + 1, target.y),
            (2 * number[-1] + 1, target.bottom),
        ]
        bound = np.concatenate([side for side, _ in sides])
        return bound, np.concatenate([np.full(len(side), value) for side, value in sides])

    def _shapes(self) -> Entries:
        """Each cell is a similar copy of what the correction makes of it (He et al. 2013, eq. 3)."""
        mesh = self.mesh
        cell = mesh.corrected[mesh.around]
        cell = cell - cell.mean(axis=1, keepdims=True)
        x, y = cell[..., 0], cell[..., 1]
        basis = np.zeros((mesh.count, 8, 4))
        basis[:, 0::2, 0], basis[:, 0::2, 1], basis[:, 0::2, 2] = x, -y, 1
        basis[:, 1::2, 0], basis[:, 1::2, 1], basis[:, 1::2, 3] = y, x, 1
        off = (np.eye(8) - basis @ np.linalg.pinv(basis)) / mesh.size
        unknowns = np.stack([2 * mesh.around, 2 * mesh.around + 1], axis=-1).reshape(-1, 8)
        return np.repeat(unknowns, 8, axis=0), off.reshape(-1, 8)

    def _following(self) -> Entries:
        """The sides of the cells are turned with the correction, deep inside in full."""
        mesh, number = self.mesh, self.mesh.number
        one = np.concatenate([number[:, :-1].ravel(), number[:-1].ravel()])
        other = np.concatenate([number[:, 1:].ravel(), number[1:].ravel()])
        nodes = mesh.photo.nodes.reshape(-1, 2)
        deep = np.clip(mesh.inside((nodes[one] + nodes[other]) / 2) / DEEP, 0, 1)
        towards = mesh.corrected[other] - mesh.corrected[one]
        towards /= np.linalg.norm(towards, axis=1, keepdims=True)
        across = (
            np.column_stack([-towards[:, 1], towards[:, 0]]) * (np.sqrt(FOLLOW) * deep / mesh.size)[:, None]
        )
        unknowns = np.column_stack([2 * other, 2 * other + 1, 2 * one, 2 * one + 1])
        return unknowns, np.column_stack([across, -across])

    def _line(self, points: Array, weight: float, offset: int) -> Entries | None:
        """All of a line lies on one that has the direction which the correction gives it (He et al., eq. 4,
        with the angle known); None beyond the reach of the lens."""
        mesh, lens = self.mesh, self.mesh.warp.lens
        first, last = lens.undistorted(np.stack([points[0], points[-1]]))
        count = max(2, int(np.ceil(PIECES * np.linalg.norm(last - first) / mesh.size)))
        along = lens.distorted(first + np.linspace(0, 1, count)[:, None] * (last - first))
        if not np.all(np.isfinite(along)):
            return None
        ends = mesh.warp.turned(np.stack([first, last]))
        towards = (ends[1] - ends[0]) / np.linalg.norm(ends[1] - ends[0])
        around, shares = mesh.photo.within(along)
        # What runs along the border itself cannot leave it.
        room = min(1.0, float(mesh.inside(along).max()) / ROOM)
        by = room**2 * np.sqrt(weight / PIECES) / mesh.size
        return (
            np.hstack([2 * around, 2 * around + 1, np.full((count, 1), offset)]),
            by * np.hstack([-towards[1] * shares, towards[0] * shares, np.full((count, 1), -1.0)]),
        )


def _matrix(parts: list[Entries], unknowns: int) -> csr_matrix:
    """A sparse matrix of rows (N, k): the unknowns that they have, and with which factors."""
    counts = [len(columns) for columns, _ in parts]
    starts = np.concatenate([[0], np.cumsum(counts)])
    row = np.concatenate(
        [
            np.repeat(np.arange(count) + start, columns.shape[1])
            for (columns, _), count, start in zip(parts, counts, starts, strict=False)
        ]
    )
    column, value = (np.concatenate([part[at].ravel() for part in parts]) for at in (0, 1))
    from scipy.sparse import csr_matrix

    return csr_matrix((value, (row, column)), (starts[-1], unknowns))


def _aspect(matrices: Array) -> Array:
    """The ratio of the singular values of matrices (N, 2, 2)."""
    a, b, c, d = matrices[:, 0, 0], matrices[:, 0, 1], matrices[:, 1, 0], matrices[:, 1, 1]
    # Half the sum and half the difference of the two.
    most, least = np.hypot(a + d, b - c), np.hypot(a - d, b + c)
    return np.asarray((most + least) / np.maximum(np.abs(most - least), 1e-12))
