"""References as observations: their ends without the lens's bending, and how surely they are known."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from sequor.core.camera import Array, Intrinsics
from sequor.core.distortion.fit import DistortionFit
from sequor.core.distortion.models import Lens
from sequor.core.estimation.equations import Observations, Shape
from sequor.core.estimation.priors import Prior
from sequor.core.references.line import SMALLEST_SIGMA_PX, direction
from sequor.core.references.reference import Reference

STEP_PX = 0.01
"""Recorded pixels by which it is found how the rays of a fisheye move."""

SHARED = 1e-12
"""Stands for the angle's deviation of equations whose errors hang together: they stay as they are."""


def observe(
    references: Sequence[Reference], camera: Intrinsics, distortion: DistortionFit, with_shapes: bool
) -> tuple[Observations, tuple[str, ...]]:
    """The equations of the references that count, and the ids of receding ones alone in their group.

    ``distortion``: the lens, and how surely its terms are known. ``with_shapes``: known shapes of rectangles
    add an equation (when the focal length is to be found).
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
    places = _ideal(used, camera, distortion.lens)
    for index, (one, (ideal, stretch)) in enumerate(zip(used, places, strict=True)):
        sigma = max(one.sigma_px, SMALLEST_SIGMA_PX)
        if one.rules.joined:
            steps = sigma * np.moveaxis(stretch, 2, 1)
            for side in range(4):
                here, there = side, (side + 1) % 4
                for corner, facing, turned in ((here, there, 1.0), (there, here, -1.0)):
                    for axis in (0, 1):
                        column = columns + 2 * corner + axis
                        noise.append((len(first), column, steps[corner, axis], ideal[facing], turned))
                first.append(ideal[here])
                last.append(ideal[there])
                kinds.append(one.rules.directions[side])
                groups.append(0)
                angle_sd.append(SHARED)
                owner.append(index)
            if with_shapes and one.shape is not None:
                shapes.append((index, ideal, float(np.log(one.shape[0] / one.shape[1])), steps, columns))
            columns += 8
            continue
        (start, end), steps = _two_of(ideal, stretch, sigma, distortion.lens.flat, camera.focal_px)
        noise.append((len(first), columns, steps[0], end, 1.0))
        noise.append((len(first), columns + 1, steps[1], start, -1.0))
        columns += 2
        angle_sd.append(_angle_sd(start, end, steps, camera.focal_px))
        first.append(start)
        last.append(end)
        kinds.append(one.rules.directions[0])
        groups.append(group_names.index(one.group or "") if one.rules.grouped else 0)
        owner.append(index)
    rows = len(first)
    p, q = (np.array(ends, float).reshape(-1, 3) for ends in (first, last))
    normals = np.cross(p, q)
    bent, corners_bent = _bent(used, places, distortion, normals)
    known = tuple(
        Shape(corners, ratio, rows + at, start_column, steps, corners_bent[:, index])
        for at, (index, corners, ratio, steps, start_column) in enumerate(shapes)
    )
    owner += [index for index, *_ in shapes]
    angle_sd += [SHARED] * len(shapes)
    noise_rows = np.array([entry[0] for entry in noise], np.intp)
    step, other = (np.array([entry[at] for entry in noise], float).reshape(-1, 3) for at in (2, 3))
    sign = np.array([entry[4] for entry in noise])
    seen = Observations(
        ids=tuple(one.id for one in used),
        owner=np.array(owner, np.intp),
        first=p,
        last=q,
        normals=normals,
        kinds=np.array(kinds, np.intp),
        groups=np.array(groups, np.intp),
        group_names=group_names,
        noise_rows=noise_rows,
        noise_columns=np.array([entry[1] for entry in noise], np.intp),
        noise_steps=sign[:, None] * np.cross(step, other),
        noise_starts=np.searchsorted(noise_rows, np.arange(rows)).astype(np.intp),
        angle_sd=np.array(angle_sd),
        weights=np.array([used[index].weight for index in owner], float),
        bent=bent,
        shapes=known,
        prior=Prior(terms=distortion.covariance),
    )
    return seen, single


def _bent(
    references: Sequence[Reference],
    points: Sequence[tuple[Array, Array]],
    distortion: DistortionFit,
    normals: Array,
) -> tuple[Array, Array]:
    """What each term of the lens does to the normals, per unit and per unit squared, (terms, 2, N, 3), and to
    the corners of every reference that is a rectangle, per unit, (terms, references, 4, 2)."""
    of_normals = np.zeros((len(distortion.names), 2, *normals.shape))
    of_corners = np.zeros((len(distortion.names), len(references), 4, 2))
    for number, name in enumerate(distortion.names):
        if not references:
            break
        step = float(np.sqrt(distortion.covariance[number, number]))
        both: list[Array] = []
        for index, (one, (rays, rays_moved)) in enumerate(zip(references, points, strict=True)):
            ideal, stretch = rays[:, :2], rays_moved[:, :2]
            moved, bowed = distortion.lens.moved_by(name, ideal, stretch)
            moved_both = ideal + np.multiply.outer([step, -step], moved) + step**2 * bowed
            if one.rules.joined:
                of_corners[number, index] = moved
                both += [moved_both[:, [side, (side + 1) % 4]] for side in range(4)]
            elif len(ideal) == 2:
                both.append(moved_both)
            else:
                both.append(np.stack([_as_two_ends(one_moved, stretch, 1.0)[0] for one_moved in moved_both]))
        ends = np.stack(both)
        there, back = (np.cross(_ahead(ends[:, sign, 0]), _ahead(ends[:, sign, 1])) for sign in (0, 1))
        # The line through many points may come out the other way round.
        there, back = (np.sign(np.sum(one * normals, axis=1))[:, None] * one for one in (there, back))
        of_normals[number] = (there - back) / (2 * step), (there + back - 2 * normals) / (2 * step**2)
    return of_normals, of_corners


def _taking_part(
    references: Sequence[Reference],
) -> tuple[list[Reference], tuple[str, ...], tuple[str, ...]]:
    """The references that say something, the ids of receding ones alone in their group, and the groups."""
    receding = [one for one in references if one.counts and one.rules.grouped]
    sizes: dict[str, int] = {}
    for one in receding:
        sizes[one.group or ""] = sizes.get(one.group or "", 0) + 1
    single = tuple(one.id for one in receding if sizes[one.group or ""] < 2)
    used = [one for one in references if one.counts and one.id not in single]
    return used, single, tuple(sorted(name for name, size in sizes.items() if size > 1))


def _ideal(references: Sequence[Reference], camera: Intrinsics, lens: Lens) -> list[tuple[Array, Array]]:
    """Of every reference the rays of its points (N, 3) in camera axes, x and y in pixels and z in focal
    lengths, and how they move with a small step as recorded (N, 3, 2). Of a flat lens they are the ideal
    points about the principal point, with z 1; of a fisheye they are as long as the focal length."""
    if not references:
        return []
    recorded = np.concatenate([one.points for one in references])
    if lens.flat:
        ideal, grown = lens.undistorted_with_slopes(recorded)
        rays = _ahead(ideal - np.array([camera.width / 2, camera.height / 2]))
        grown = np.concatenate([grown, np.zeros((len(grown), 1, 2))], axis=1)
    else:
        in_pixels = np.array([camera.focal_px, camera.focal_px, 1.0])
        rays = lens.rays(recorded, camera.focal_px) * in_pixels
        there, back = (
            np.stack(
                [lens.rays(recorded + sign * way, camera.focal_px) for way in STEP_PX * np.eye(2)], axis=-1
            )
            for sign in (1, -1)
        )
        grown = (there - back) / (2 * STEP_PX) * in_pixels[:, None]
    if not np.all(np.isfinite(rays)):
        raise ValueError("a reference reaches beyond the radius that the lens terms describe")
    ends = np.cumsum([len(one.points) for one in references])[:-1]
    return list(zip(np.split(rays, ends), np.split(grown, ends), strict=True))


def _ahead(ideal: Array) -> Array:
    """Ideal points (..., 2) about the principal point as rays (..., 3), z in focal lengths."""
    return np.concatenate([ideal, np.ones((*ideal.shape[:-1], 1))], axis=-1)


def _two_of(rays: Array, stretch: Array, sigma: float, flat: bool, focal_px: float) -> tuple[Array, Array]:
    """Two ends (2, 3) that say the same as all rays (N, 3) of a line, and their errors across (2, 3)."""
    if not flat:
        return _as_two_rays(rays, stretch, sigma, focal_px)
    ends, steps = _as_two_ends(rays[:, :2], stretch[:, :2], sigma)
    return _ahead(ends), np.column_stack([steps, np.zeros(2)])


def _angle_sd(start: Array, end: Array, steps: Array, focal_px: float) -> float:
    """The standard deviation in radians of a line's own angle, by its ends' errors (2, 3)."""
    by = np.array([1.0, 1.0, focal_px])
    return float(np.linalg.norm(steps * by) / np.linalg.norm((end - start) * by))


def _as_two_rays(rays: Array, stretch: Array, sigma: float, focal_px: float) -> tuple[Array, Array]:
    """The same of rays (N, 3) of a fisheye: two on the great circle that fits best, and their errors across
    (2, 3)."""
    in_pixels = np.array([focal_px, focal_px, 1.0])
    unit, moved = rays / in_pixels, stretch / in_pixels[:, None]
    square_to = np.linalg.svd(unit, full_matrices=False)[2][2] if len(unit) > 2 else np.cross(*unit)
    square_to = square_to / np.linalg.norm(square_to)
    grown = np.linalg.norm(np.einsum("i,nij->nj", square_to, moved), axis=1)
    if len(unit) == 2:
        return rays, sigma * grown[:, None] * square_to * in_pixels
    middle = unit.mean(axis=0)
    middle = middle - (middle @ square_to) * square_to
    middle /= np.linalg.norm(middle)
    forth = np.cross(square_to, middle)
    at = np.arctan2(unit @ forth, unit @ middle)
    reach = float(np.sqrt(np.mean((at - at.mean()) ** 2)))
    places = at.mean() + np.array([-reach, reach])
    ends = np.cos(places)[:, None] * middle + np.sin(places)[:, None] * forth
    sd = sigma * float(np.sqrt(2 / len(unit)) * np.mean(grown))
    return ends * in_pixels, np.stack([sd * square_to * in_pixels] * 2)


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
