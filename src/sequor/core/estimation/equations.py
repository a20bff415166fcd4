"""What references say, as equations in the unknowns, and the slopes of those equations.

A line through the ideal photo points p and q (centred on the principal point, lens bending taken out)
has the interpretation-plane normal ``n = (p, f) x (q, f)`` in camera axes. Turned into level axes it must
be square to the direction that the line has in the world: ``(C n) . d = 0`` with d = e_x for level, e_y
for plumb, (sin phi, 0, cos phi) for receding lines of one group (Hartley & Zisserman, *Multiple View
Geometry in Computer Vision*, 2nd ed., sections 8.6 and 8.7). A rectangle is two level and two plumb sides
that share their corners, and with a known shape one equation more.

Errors are those of the ends, across the line (corners of a rectangle: any way), carried to first order
into each equation.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from sequor.core.camera import Array, Indices
from sequor.core.estimation.priors import Prior
from sequor.core.estimation.unknowns import Unknowns


@dataclass(frozen=True)
class Shape:
    """A rectangle whose true width : height is known: the rays of its corners (4, 3), x and y in pixels and z
    in focal lengths, and its equation's row.

    ``bent`` (terms, 4, 2) is what each term of the lens does to the corners, per unit.
    """

    corners: Array
    log_ratio: float
    row: int
    first_noise: int
    steps: Array
    bent: Array


@dataclass(frozen=True)
class Observations:
    """The equations of several references, stacked.

    ``first`` and ``last`` are (N, 3) rays of the ends, x and y in pixels and z in focal lengths; ``normals``
    (N, 3) their interpretation planes for a focal length of 1 px; ``kinds`` (N,) 0 level, 1 plumb, 2
    receding; ``groups`` (N,) the group's number; ``owner`` (rows,) the reference's index in ``ids``. Every
    error of an end has its row in ``noise_rows`` (M,), its column in ``noise_columns`` (M,) and in
    ``noise_steps`` (M, 3) what it does to the normal; ``noise_starts`` (N,) is where a row's errors begin.
    ``angle_sd`` (rows,) is the standard deviation of a line's own angle in radians. ``bent`` (terms, 2, N,
    3): what each term of the lens does to the normals, per unit and per unit squared. ``prior`` is what is
    known without any line."""

    ids: tuple[str, ...]
    owner: Indices
    first: Array
    last: Array
    normals: Array
    kinds: Indices
    groups: Indices
    group_names: tuple[str, ...]
    noise_rows: Indices
    noise_columns: Indices
    noise_steps: Array
    noise_starts: Indices
    angle_sd: Array
    weights: Array
    bent: Array
    shapes: tuple[Shape, ...] = field(default=())
    prior: Prior = field(default_factory=Prior)
    looked: dict[Unknowns, tuple[tuple[str, ...], Array, Array]] = field(default_factory=dict, compare=False)

    @property
    def rows(self) -> int:
        """How many equations there are."""
        return len(self.owner)

    @property
    def separate(self) -> bool:
        """Whether every reference is one equation, so that no errors are shared."""
        return len(self.ids) == self.rows

    @property
    def terms(self) -> tuple[str, ...]:
        """The names of the lens's terms as unknowns."""
        return tuple(f"term {number}" for number in range(len(self.bent)))

    @property
    def azimuths(self) -> tuple[str, ...]:
        """The names of the groups' azimuths as unknowns."""
        return tuple(f"azimuth {number}" for number in range(len(self.group_names)))

    def with_aim(self, sd: float) -> Observations:
        """The same with another standard deviation, in radians, of what is known of the aim; infinite:
        nothing."""
        return replace(self, prior=replace(self.prior, aim_sd=sd))

    def without(self, index: int) -> Array:
        """Weights (rows,) that leave one reference out."""
        kept: Array = (self.owner != index).astype(float)
        return kept


@dataclass(frozen=True)
class Equations:
    """The equations at some values of the unknowns, to first order.

    ``residual`` (rows,) and its slopes by the unknowns, ``jacobian`` (rows, unknowns); ``variance``
    (rows,) by the ends' errors, and half its slopes, ``variance_slopes`` (rows, unknowns).
    """

    residual: Array
    jacobian: Array
    variance: Array
    variance_slopes: Array
    noise_jacobian: Array | None
    """Slopes by every error of an end, (rows, errors); only where references share errors."""


def equations(seen: Observations, at: Unknowns, wanted: Sequence[str]) -> Equations:
    """The equations at values of the unknowns.

    ``wanted`` names the unknowns: roll, pitch, yaw (by radian), focal_px (by its logarithm), ``azimuth 0``,
    ... of the groups, and ``term 0``, ... of the lens.
    """
    turn, slopes = _rotation_and_slopes(at)
    receding = seen.kinds == 2
    world_direction = turn[seen.kinds]
    if seen.group_names:
        azimuths = np.array(at.azimuths)[seen.groups[receding]]
        ahead, aside = np.sin(azimuths)[:, None], np.cos(azimuths)[:, None]
        world_direction[receding] = ahead * turn[0] + aside * turn[2]
    depth = np.array([at.focal_px, at.focal_px, 1.0])
    bending = seen.normals
    for off, (straight, square) in zip(at.terms, seen.bent, strict=True):
        bending = bending + off * straight + off**2 * square
    normals, steps = bending * depth, seen.noise_steps * depth
    on_noise = world_direction[seen.noise_rows]
    residual = np.einsum("ij,ij->i", normals, world_direction)
    each = np.einsum("ij,ij->i", steps, on_noise)
    lines = len(residual)
    variance = np.zeros(seen.rows)
    variance[:lines] = np.add.reduceat(each * each, seen.noise_starts)

    jacobian = np.zeros((seen.rows, len(wanted)))
    variance_slopes = np.zeros_like(jacobian)
    for column, name in enumerate(wanted):
        if name.startswith("term"):
            straight, square = seen.bent[int(name.split()[1])]
            moved = straight + 2 * at.terms[int(name.split()[1])] * square
            jacobian[:lines, column] = np.einsum("ij,ij->i", moved * depth, world_direction)
            continue
        if name == "focal_px":
            jacobian[:lines, column] = residual - normals[:, 2] * world_direction[:, 2]
            each_slope = each - steps[:, 2] * on_noise[:, 2]
        else:
            if name in slopes:
                slope = slopes[name][seen.kinds]
                if seen.group_names:
                    slope[receding] = ahead * slopes[name][0] + aside * slopes[name][2]
            else:
                slope = np.zeros_like(world_direction)
                mine = receding & (seen.groups == int(name.split()[1]))
                slope[receding] = aside * turn[0] - ahead * turn[2]
                slope[~mine] = 0.0
            jacobian[:lines, column] = np.einsum("ij,ij->i", normals, slope)
            each_slope = np.einsum("ij,ij->i", steps, slope[seen.noise_rows])
        variance_slopes[:lines, column] = np.add.reduceat(each * each_slope, seen.noise_starts)
    if seen.separate:
        return Equations(residual, jacobian, variance, variance_slopes, None)
    noise_jacobian = np.zeros((seen.rows, int(seen.noise_columns.max()) + 1))
    noise_jacobian[seen.noise_rows, seen.noise_columns] = each
    if seen.shapes:
        residual = np.concatenate([residual, np.zeros(len(seen.shapes))])
        for shape in seen.shapes:
            _add_shape(shape, at, wanted, residual, jacobian, noise_jacobian)
        variance = np.sum(noise_jacobian**2, axis=1)
    return Equations(residual, jacobian, variance, variance_slopes, noise_jacobian)


def log_shape(corners: Array, turn: Array, focal_px: float) -> float:
    """log(mean width / mean height) of a rectangle once corrected; ``corners`` (4, 3) as in
    :class:`Shape`."""
    rays = corners * [1.0, 1.0, focal_px] @ turn.T
    plane = rays[:, :2] / rays[:, 2:]
    side = np.linalg.norm(plane - plane[_NEXT], axis=1)
    return float(np.log((side[0] + side[2]) / (side[1] + side[3])))


def _add_shape(
    shape: Shape, at: Unknowns, wanted: Sequence[str], residual: Array, jacobian: Array, noise_jacobian: Array
) -> None:
    """The equation of a known shape, and its slopes by the unknowns and by every error of a corner."""
    turn, slopes = _rotation_and_slopes(at)
    corners = shape.corners.copy()
    corners[:, :2] += np.tensordot(np.array(at.terms), shape.bent, 1)
    centred = corners * [1.0, 1.0, at.focal_px]
    rays = centred @ turn.T
    plane = rays[:, :2] / rays[:, 2:]
    side = plane - plane[_NEXT]
    length = np.linalg.norm(side, axis=1)
    width, height = length[0] + length[2], length[1] + length[3]
    share = side / (length * np.array([width, -height, width, -height]))[:, None]
    residual[shape.row] = log_shape(corners, turn, at.focal_px) - shape.log_ratio

    def slope(moves: Array) -> Array:
        """How it grows when the rays move by (..., 4, 3)."""
        moved = (moves[..., :2] - plane * moves[..., 2:]) / rays[:, 2:]
        grown: Array = np.sum((moved - moved[..., _NEXT, :]) * share, axis=(-2, -1))
        return grown

    for column, name in enumerate(wanted):
        if name == "focal_px":
            jacobian[shape.row, column] = slope(np.outer(centred[:, 2], turn[:, 2]))
        elif name.startswith("term"):
            jacobian[shape.row, column] = slope(shape.bent[int(name.split()[1])] @ turn[:, :2].T)
        elif name in slopes:
            jacobian[shape.row, column] = slope(centred @ slopes[name].T)
    moves = np.zeros((4, 2, 4, 3))
    for corner in range(4):
        moves[corner, :, corner] = shape.steps[corner] * [1.0, 1.0, at.focal_px] @ turn.T
    noise_jacobian[shape.row, shape.first_noise : shape.first_noise + 8] = slope(moves).ravel()


def _rotation_and_slopes(at: Unknowns) -> tuple[Array, dict[str, Array]]:
    """The rotation camera to level, and its derivatives by roll, pitch and yaw in radians.

    ``Ry(yaw) @ Rx(pitch) @ Rz(roll)`` written out: it is asked for at every step of every estimate.
    """
    cy, sy = math.cos(at.yaw), math.sin(at.yaw)
    cp, sp = math.cos(at.pitch), math.sin(at.pitch)
    cr, sr = math.cos(at.roll), math.sin(at.roll)
    right = [cy * cr + sy * sp * sr, sy * sp * cr - cy * sr, sy * cp]
    down = [cp * sr, cp * cr, -sp]
    ahead = [cy * sp * sr - sy * cr, cy * sp * cr + sy * sr, cy * cp]
    by_roll = [[row[1], -row[0], 0.0] for row in (right, down, ahead)]
    by_pitch = [
        [sy * cp * sr, sy * cp * cr, -sy * sp],
        [-sp * sr, -sp * cr, -cp],
        [cy * cp * sr, cy * cp * cr, -cy * sp],
    ]
    by_yaw = [ahead, [0.0, 0.0, 0.0], [-value for value in right]]
    return np.array([right, down, ahead]), {
        "roll": np.array(by_roll),
        "pitch": np.array(by_pitch),
        "yaw": np.array(by_yaw),
    }


_NEXT = np.array([1, 2, 3, 0])
"""The corner after each corner of a rectangle."""
