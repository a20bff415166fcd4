"""The largest rectangle in a convex outline: a linear programme, solved exactly.

That of a given ratio is one in its centre and its scale. It is solved by looking at the vertices of the
feasible region: an optimum lies where three constraints meet (V. Chvátal, *Linear Programming*, 1983, ch. 3
and 18). That the rectangle holds a box, or that a point lies at a share of its width, are further
constraints of the same kind.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np
import shapely

from sequor.core.camera import Array
from sequor.core.frame.constraints import FrameConstraints, NoFrameError
from sequor.core.rectangle import TOUCH, Rectangle


@dataclass(frozen=True)
class HalfPlanes:
    """A convex region as ``normals @ point <= offsets``: (N, 2) outward unit normals, (N,) offsets."""

    normals: Array
    offsets: Array

    @classmethod
    def of(cls, outline: Array) -> HalfPlanes:
        """The inside of a convex polygon (N, 2), whichever way round it runs."""
        edges = np.roll(outline, -1, axis=0) - outline
        normals = np.stack([edges[:, 1], -edges[:, 0]], axis=1) / np.linalg.norm(edges, axis=1)[:, None]
        if np.sum(normals * (outline - outline.mean(axis=0))) < 0:
            normals = -normals
        return cls(normals, np.sum(normals * outline, axis=1))

    def reach(self, width: float, height: float) -> Array:
        """How far an upright rectangle of this size reaches beyond its centre along each normal, (N,)."""
        reach: Array = np.abs(self.normals) @ np.array([width, height]) / 2
        return reach

    def hold(self, rectangle: Rectangle, tolerance: float = TOUCH) -> bool:
        """Whether the rectangle lies inside."""
        reach = self.reach(rectangle.width, rectangle.height)
        return bool(np.all(self.normals @ rectangle.centre + reach <= self.offsets + tolerance))


def largest_in_convex(
    outline: Array, width: float, height: float, near: Array, constraints: FrameConstraints
) -> Rectangle:
    """The largest rectangle of the ratio width : height in a convex outline (N, 2); of equally large ones the
    nearest to ``near`` (2,). Raises NoFrameError."""
    planes = HalfPlanes.of(outline)
    rows = np.column_stack([planes.normals, planes.reach(width, height)])
    optima = _best_vertices(*_with_constraints(rows, planes.offsets, width, height, constraints))
    if not len(optima):
        raise NoFrameError("the outline has no inside")
    scale = float(optima[0, 2])
    best = shapely.MultiPoint(optima[:, :2]).convex_hull
    centre = shapely.get_coordinates(shapely.shortest_line(best, shapely.Point(near)))[0]
    return Rectangle.about(centre, width * scale, height * scale)


def _with_constraints(
    rows: Array, offsets: Array, width: float, height: float, constraints: FrameConstraints
) -> tuple[Array, Array]:
    """The constraints ``rows @ (cx, cy, s) <= offsets`` with further ones."""
    more, limits = [], []
    if constraints.around is not None:
        one = constraints.around
        more += [[1, 0, -width / 2], [-1, 0, -width / 2], [0, 1, -height / 2], [0, -1, -height / 2]]
        limits += [one.x, -one.right, one.y, -one.bottom]
    if constraints.across is not None:
        x, share = constraints.across
        more += [[1, 0, (share - 0.5) * width], [-1, 0, (0.5 - share) * width]]
        limits += [x, -x]
    if constraints.down is not None:
        y, share = constraints.down
        more += [[0, 1, (share - 0.5) * height], [0, -1, (0.5 - share) * height]]
        limits += [y, -y]
    if np.isfinite(constraints.at_most):
        # Weighed like the others, so that no determinant is small only for its unit.
        size = (width + height) / 2
        more += [[0, 0, size]]
        limits += [size * constraints.at_most]
    if not more:
        return rows, offsets
    return np.vstack([rows, more]), np.concatenate([offsets, limits])


def _best_vertices(rows: Array, offsets: Array) -> Array:
    """All optimal vertices (M, 3) of max s subject to ``rows @ (cx, cy, s) <= offsets``, s >= 0."""
    triples = np.array(list(combinations(range(len(rows)), 3)))
    matrices = rows[triples]
    regular = np.abs(np.linalg.det(matrices)) > 1e-12 * np.abs(rows[:, 2]).max()
    vertices = np.linalg.solve(matrices[regular], offsets[triples[regular]][..., None])[..., 0]
    slack = 1e-9 * max(1.0, float(np.abs(offsets).max()))
    feasible = np.all(vertices @ rows.T <= offsets + slack, axis=1) & (vertices[:, 2] > 0)
    found: Array = vertices[feasible]
    best: Array = found[found[:, 2] >= found[:, 2].max(initial=0.0) * (1 - 1e-9)]
    return best


def best_size(outline: Array, around: Rectangle | None) -> tuple[float, float]:
    planes = HalfPlanes.of(outline)
    wide, high = np.ptp(outline, axis=0)
    start = largest_in_convex(outline, wide, high, outline.mean(axis=0), FrameConstraints(around=around))
    from scipy.optimize import minimize  # heavy, and needed for a free shape alone

    unit = max(start.width, start.height)
    rows = np.column_stack([planes.normals, np.abs(planes.normals) / 2])
    offsets = planes.offsets
    if around is not None:
        sides = [[1, 0, -0.5, 0], [-1, 0, -0.5, 0], [0, 1, 0, -0.5], [0, -1, 0, -0.5]]
        rows = np.vstack([rows, sides])
        offsets = np.concatenate([offsets, [around.x, -around.right, around.y, -around.bottom]])
    origin = np.array([*start.centre, 0.0, 0.0])
    offsets = (offsets - rows @ origin) / unit
    answer = minimize(
        lambda v: -np.log(v[2] * v[3]),
        [0.0, 0.0, start.width / unit, start.height / unit],
        jac=lambda v: np.array([0.0, 0.0, -1 / v[2], -1 / v[3]]),
        method="SLSQP",
        bounds=[(None, None), (None, None), (1e-6, None), (1e-6, None)],
        constraints={"type": "ineq", "fun": lambda v: offsets - rows @ v, "jac": lambda v: -rows},
        options={"ftol": 1e-12, "maxiter": 200},
    )
    return float(answer.x[2] * unit), float(answer.x[3] * unit)
