"""References as equations: what each says about the camera, and how surely.

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
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from .camera import Array, Attitude, Indices, Intrinsics
from .lens import Lens
from .references import SMALLEST_SIGMA_PX, Reference, direction

Unknown = Literal["roll", "pitch", "yaw", "focal_px", "k1", "k2"]

ANGLES: tuple[Unknown, ...] = ("roll", "pitch", "yaw")

SHARED = 1e-12
"""Stands for the angle's deviation of equations whose errors hang together: they stay as they are."""


@dataclass(frozen=True)
class Unknowns:
    """Values of everything that may be solved for: radians, and the focal length in photo pixels."""

    roll: float = 0.0
    pitch: float = 0.0
    yaw: float = 0.0
    focal_px: float = 1.0
    azimuths: tuple[float, ...] = ()

    def attitude(self) -> Attitude:
        """The attitude in degrees."""
        return Attitude(*(float(np.rad2deg(angle)) for angle in (self.roll, self.pitch, self.yaw)))


@dataclass(frozen=True)
class Shape:
    """A rectangle whose true width : height is known: its corners (4, 2), centred, and its equation's row."""

    corners: Array
    log_ratio: float
    row: int
    first_noise: int
    steps: Array


@dataclass(frozen=True)
class Observations:
    """The equations of several references, stacked.

    ``first`` and ``last`` are (N, 2) ideal ends about the principal point; ``normals`` (N, 3) their
    interpretation planes for a focal length of 1 px; ``kinds`` (N,) 0 level, 1 plumb, 2 receding;
    ``groups`` (N,) the group's number; ``owner`` (rows,) the reference's index in ``ids``. Every error of
    an end has its row in ``noise_rows`` (M,), its column in ``noise_columns`` (M,) and in ``noise_steps``
    (M, 3) what it does to the normal; ``noise_starts`` (N,) is where a row's errors begin.
    ``angle_sd`` (rows,) is the standard deviation of a line's own angle in radians.
    """

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
    shapes: tuple[Shape, ...] = field(default=())

    @property
    def rows(self) -> int:
        """How many equations there are."""
        return len(self.owner)

    @property
    def separate(self) -> bool:
        """Whether every reference is one equation, so that no errors are shared."""
        return len(self.ids) == self.rows

    def without(self, index: int) -> Array:
        """Weights (rows,) that leave one reference out."""
        kept: Array = (self.owner != index).astype(float)
        return kept


def observe(
    references: Sequence[Reference], camera: Intrinsics, lens: Lens, with_shapes: bool
) -> tuple[Observations, tuple[str, ...]]:
    """The equations of the references that count, and the ids of receding ones alone in their group.

    ``with_shapes``: known shapes of rectangles add an equation (when the focal length is to be found).
    """
    used, single, group_names = _taking_part(references)
    first: list[Array] = []
    last: list[Array] = []
    kinds: list[int] = []
    groups: list[int] = []
    angle_sd: list[float] = []
    owner: list[int] = []
    noise: list[tuple[int, int, Array, Array, float]] = []
    shapes: list[tuple[int, Array, float, Array, int]] = []
    columns = 0
    for index, (one, (ideal, stretch)) in enumerate(zip(used, _ideal(used, camera, lens), strict=True)):
        sigma = max(one.sigma_px, SMALLEST_SIGMA_PX)
        if one.kind == "rectangle":
            steps = sigma * np.moveaxis(stretch, 2, 1)
            for side in range(4):
                here, there = side, (side + 1) % 4
                for corner, facing, way in ((here, there, 1.0), (there, here, -1.0)):
                    for axis in (0, 1):
                        column = columns + 2 * corner + axis
                        noise.append((len(first), column, steps[corner, axis], ideal[facing], way))
                first.append(ideal[here])
                last.append(ideal[there])
                kinds.append(side % 2)
                groups.append(0)
                angle_sd.append(SHARED)
                owner.append(index)
            if with_shapes and one.shape is not None:
                shapes.append((index, ideal, float(np.log(one.shape[0] / one.shape[1])), steps, columns))
            columns += 8
            continue
        (start, end), steps = _as_two_ends(ideal, stretch, sigma)
        noise.append((len(first), columns, steps[0], end, 1.0))
        noise.append((len(first), columns + 1, steps[1], start, -1.0))
        columns += 2
        angle_sd.append(float(np.linalg.norm(steps) / np.linalg.norm(end - start)))
        first.append(start)
        last.append(end)
        kinds.append({"level": 0, "plumb": 1, "receding": 2}[one.kind])
        groups.append(group_names.index(one.group or "") if one.kind == "receding" else 0)
        owner.append(index)
    rows = len(first)
    known = tuple(
        Shape(corners, ratio, rows + at, start_column, steps)
        for at, (_, corners, ratio, steps, start_column) in enumerate(shapes)
    )
    owner += [index for index, *_ in shapes]
    angle_sd += [SHARED] * len(shapes)
    p, q = (np.array(ends, float).reshape(-1, 2) for ends in (first, last))
    noise_rows = np.array([entry[0] for entry in noise], np.intp)
    step, other = (np.array([entry[at] for entry in noise], float).reshape(-1, 2) for at in (2, 3))
    sign = np.array([entry[4] for entry in noise])
    seen = Observations(
        ids=tuple(one.id for one in used),
        owner=np.array(owner, np.intp),
        first=p,
        last=q,
        normals=np.column_stack(
            [p[:, 1] - q[:, 1], q[:, 0] - p[:, 0], p[:, 0] * q[:, 1] - q[:, 0] * p[:, 1]]
        ),
        kinds=np.array(kinds, np.intp),
        groups=np.array(groups, np.intp),
        group_names=group_names,
        noise_rows=noise_rows,
        noise_columns=np.array([entry[1] for entry in noise], np.intp),
        noise_steps=sign[:, None]
        * np.column_stack([step[:, 1], -step[:, 0], step[:, 0] * other[:, 1] - step[:, 1] * other[:, 0]]),
        noise_starts=np.searchsorted(noise_rows, np.arange(rows)).astype(np.intp),
        angle_sd=np.array(angle_sd),
        weights=np.array([used[index].weight for index in owner], float),
        shapes=known,
    )
    return seen, single


def _taking_part(
    references: Sequence[Reference],
) -> tuple[list[Reference], tuple[str, ...], tuple[str, ...]]:
    """The references that say something, the ids of receding ones alone in their group, and the groups."""
    receding = [one for one in references if one.counts and one.kind == "receding"]
    sizes: dict[str, int] = {}
    for one in receding:
        sizes[one.group or ""] = sizes.get(one.group or "", 0) + 1
    single = tuple(one.id for one in receding if sizes[one.group or ""] < 2)
    used = [one for one in references if one.counts and one.id not in single]
    return used, single, tuple(sorted(name for name, size in sizes.items() if size > 1))


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
    by_noise: Array | None
    """Slopes by every error of an end, (rows, errors); only where references share errors."""


def equations(seen: Observations, at: Unknowns, wanted: Sequence[str]) -> Equations:
    """The equations at values of the unknowns.

    ``wanted`` names the unknowns: roll, pitch, yaw (by radian), focal_px (by its logarithm), and
    ``azimuth 0``, ... of the groups.
    """
    turn, slopes = _turns(at)
    receding = seen.kinds == 2
    wish = turn[seen.kinds]
    if seen.group_names:
        azimuths = np.array(at.azimuths)[seen.groups[receding]]
        ahead, aside = np.sin(azimuths)[:, None], np.cos(azimuths)[:, None]
        wish[receding] = ahead * turn[0] + aside * turn[2]
    depth = np.array([at.focal_px, at.focal_px, 1.0])
    normals, steps = seen.normals * depth, seen.noise_steps * depth
    on_noise = wish[seen.noise_rows]
    residual = np.einsum("ij,ij->i", normals, wish)
    each = np.einsum("ij,ij->i", steps, on_noise)
    lines = len(residual)
    variance = np.zeros(seen.rows)
    variance[:lines] = np.add.reduceat(each * each, seen.noise_starts)

    jacobian = np.zeros((seen.rows, len(wanted)))
    variance_slopes = np.zeros_like(jacobian)
    for column, name in enumerate(wanted):
        if name == "focal_px":
            jacobian[:lines, column] = residual - normals[:, 2] * wish[:, 2]
            each_slope = each - steps[:, 2] * on_noise[:, 2]
        else:
            if name in slopes:
                slope = slopes[name][seen.kinds]
                if seen.group_names:
                    slope[receding] = ahead * slopes[name][0] + aside * slopes[name][2]
            else:
                slope = np.zeros_like(wish)
                mine = receding & (seen.groups == int(name.split()[1]))
                slope[receding] = aside * turn[0] - ahead * turn[2]
                slope[~mine] = 0.0
            jacobian[:lines, column] = np.einsum("ij,ij->i", normals, slope)
            each_slope = np.einsum("ij,ij->i", steps, slope[seen.noise_rows])
        variance_slopes[:lines, column] = np.add.reduceat(each * each_slope, seen.noise_starts)
    if seen.separate:
        return Equations(residual, jacobian, variance, variance_slopes, None)
    by_noise = np.zeros((seen.rows, int(seen.noise_columns.max()) + 1))
    by_noise[seen.noise_rows, seen.noise_columns] = each
    if seen.shapes:
        residual = np.concatenate([residual, np.zeros(len(seen.shapes))])
        for shape in seen.shapes:
            _add_shape(shape, at, wanted, residual, jacobian, by_noise)
        variance = np.sum(by_noise**2, axis=1)
    return Equations(residual, jacobian, variance, variance_slopes, by_noise)


def log_shape(corners: Array, turn: Array, focal_px: float) -> float:
    """log(mean width / mean height) of a rectangle's corners (4, 2), centred ideal pixels, once corrected."""
    rays = np.column_stack([corners, np.full(4, focal_px)]) @ turn.T
    plane = rays[:, :2] / rays[:, 2:]
    side = np.linalg.norm(plane - plane[_NEXT], axis=1)
    return float(np.log((side[0] + side[2]) / (side[1] + side[3])))


def _add_shape(
    shape: Shape, at: Unknowns, wanted: Sequence[str], residual: Array, jacobian: Array, by_noise: Array
) -> None:
    """The equation of a known shape, and its slopes by the unknowns and by every error of a corner."""
    turn, slopes = _turns(at)
    centred = np.column_stack([shape.corners, np.full(4, at.focal_px)])
    rays = centred @ turn.T
    plane = rays[:, :2] / rays[:, 2:]
    side = plane - plane[_NEXT]
    length = np.linalg.norm(side, axis=1)
    width, height = length[0] + length[2], length[1] + length[3]
    share = side / (length * np.array([width, -height, width, -height]))[:, None]
    residual[shape.row] = log_shape(shape.corners, turn, at.focal_px) - shape.log_ratio

    def slope(moves: Array) -> Array:
        """How it grows when the rays move by (..., 4, 3)."""
        moved = (moves[..., :2] - plane * moves[..., 2:]) / rays[:, 2:]
        grown: Array = np.sum((moved - moved[..., _NEXT, :]) * share, axis=(-2, -1))
        return grown

    for column, name in enumerate(wanted):
        if name == "focal_px":
            jacobian[shape.row, column] = slope(at.focal_px * turn[:, 2])
        elif name in slopes:
            jacobian[shape.row, column] = slope(centred @ slopes[name].T)
    moves = np.zeros((4, 2, 4, 3))
    for corner in range(4):
        moves[corner, :, corner] = shape.steps[corner] @ turn[:, :2].T
    by_noise[shape.row, shape.first_noise : shape.first_noise + 8] = slope(moves).ravel()


def shifted(at: Unknowns, steps: dict[str, float]) -> Unknowns:
    """The unknowns after a step in each of the named ones (the focal length by its logarithm)."""
    azimuths = list(at.azimuths)
    for name, step in steps.items():
        if name.startswith("azimuth"):
            azimuths[int(name.split()[1])] += step
    return Unknowns(
        at.roll + steps.get("roll", 0.0),
        at.pitch + steps.get("pitch", 0.0),
        at.yaw + steps.get("yaw", 0.0),
        at.focal_px * float(np.exp(np.clip(steps.get("focal_px", 0.0), -0.5, 0.5))),
        tuple(azimuths),
    )


def _ideal(references: Sequence[Reference], camera: Intrinsics, lens: Lens) -> list[tuple[Array, Array]]:
    """Of every reference its ideal points (N, 2) about the principal point, and how a small step there grows
    (N, 2, 2)."""
    if not references:
        return []
    recorded = np.concatenate([one.points for one in references])
    ideal, grown = lens.undistorted_with_slopes(recorded)
    if not np.all(np.isfinite(ideal)):
        raise ValueError("a reference reaches beyond the radius that the lens terms describe")
    ends = np.cumsum([len(one.points) for one in references])[:-1]
    centred = ideal - np.array([camera.width / 2, camera.height / 2])
    return list(zip(np.split(centred, ends), np.split(grown, ends), strict=True))


def _as_two_ends(ideal: Array, stretch: Array, sigma: float) -> tuple[Array, Array]:
    """A line through (N, 2) points as two ends (2, 2) that say the same, and their errors across (2, 2).

    The total least squares line has variance sigma^2 / sum t^2 of its angle and sigma^2 / N of its place;
    two ends at the root mean square of t with sd sigma sqrt(2 / N) have the same.
    """
    along, positions = direction(ideal)
    across = np.array([-along[1], along[0]])
    grown = np.abs(across @ stretch @ across)
    if len(ideal) == 2:
        return ideal, sigma * grown[:, None] * across
    middle, reach = ideal.mean(axis=0), float(np.sqrt(np.mean(positions**2)))
    sd = sigma * float(np.sqrt(2 / len(ideal)) * np.mean(grown))
    return np.stack([middle - reach * along, middle + reach * along]), np.stack([sd * across] * 2)


def _turns(at: Unknowns) -> tuple[Array, dict[str, Array]]:
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
