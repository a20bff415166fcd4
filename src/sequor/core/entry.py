"""Which unknowns the references determine, let in one after another.

Unknowns enter in the order roll, pitch, yaw, focal length, each only if it is named free and the lines
determine it; all others are held at 0 or at their given value. So one line is a pure rotation wherever it
lies, and two lines can disagree.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from .camera import Array, Intrinsics
from .estimate import azimuth_names, least_squares, spread_of
from .observations import ANGLES, Observations, Unknown, Unknowns

ORDER_OF_ENTRY: tuple[Unknown, ...] = (*ANGLES, "focal_px")

WIDEST_SD_DEG = 3.0
"""An angle that the lines leave more open than this is not determined by them."""

WIDEST_FOCAL_SD = 0.25
"""The same for the focal length, as a share of it."""

STEEPEST = math.radians(75)
"""Beyond it no photograph is levelled; what leads there is not determined."""

ROUGH_STEP = 1e-4
"""Near enough, in radians, to see whether an unknown is determined."""


def enter(
    seen: Observations, free: Sequence[Unknown], camera: Intrinsics
) -> tuple[tuple[Unknown, ...], Unknowns]:
    """Let the unknowns in, one after another, as far as the lines determine them."""
    at = Unknowns(focal_px=camera.focal_px)
    if not seen.rows:
        return (), at
    at = replace(at, roll=_rough_roll(seen))
    at = replace(at, azimuths=_rough_azimuths(seen, at))
    used: list[Unknown] = []
    for name in ORDER_OF_ENTRY:
        if name not in free or not _may_enter(name, seen):
            continue
        tried: list[Unknown] = [*used, name]
        wanted = (*tried, *azimuth_names(seen))
        if len(wanted) > seen.rows:
            continue
        reached = least_squares(seen, start(name, seen, at), wanted, until=ROUGH_STEP)
        widest = WIDEST_FOCAL_SD if name == "focal_px" else np.deg2rad(WIDEST_SD_DEG)
        steepest = max(abs(reached.pitch), abs(reached.yaw))
        if spread_of(seen, reached, wanted)[tried.index(name)] <= widest and steepest < STEEPEST:
            used, at = tried, reached
    if "roll" not in used:
        at = replace(at, roll=0.0)
    return tuple(used), least_squares(seen, at, (*used, *azimuth_names(seen))) if used else at


def _may_enter(name: str, seen: Observations) -> bool:
    """Pitch needs two plumb lines or a receding group; everything else only has to be determined."""
    return name != "pitch" or bool(np.sum(seen.kinds == 1) >= 2 or len(seen.group_names))


def start(name: str, seen: Observations, at: Unknowns) -> Unknowns:
    """Where to look for an angle that comes in.

    Pitch: the point in which the plumb lines meet (their vanishing point), else the horizon through the point
    in which receding lines do. Yaw: with that attitude, the
    turn that brings the level lines nearest to their direction. Receding lines are looked at afresh.
    """
    plumb, level = seen.kinds == 1, seen.kinds == 0
    if name in ("pitch", "yaw") and np.sum(plumb) > 1:
        down = _common_direction(seen, plumb, at.focal_px)
        down = down if down[1] > 0 else -down
        pitch = -math.asin(float(down[2]))
        if abs(pitch) < STEEPEST:
            at = replace(at, pitch=pitch, roll=math.atan2(float(down[0]), float(down[1])))
    elif name == "pitch" and len(seen.group_names):
        away = _common_direction(seen, (seen.kinds == 2) & (seen.groups == 0), at.focal_px)
        away = replace(at, pitch=0.0, yaw=0.0).attitude().rotation() @ (away if away[2] > 0 else -away)
        pitch = math.atan2(float(away[1]), float(away[2]))
        if abs(pitch) < STEEPEST:
            at = replace(at, pitch=pitch)
    if name == "yaw" and np.any(level):
        normals = _normals(seen, level, at.focal_px) @ at.attitude().rotation().T
        _, vectors = np.linalg.eigh(normals[:, [0, 2]].T @ normals[:, [0, 2]])
        aside = math.atan(float(vectors[1, 0]) / (float(vectors[0, 0]) or 1e-12))
        if abs(aside) < STEEPEST:
            at = replace(at, yaw=aside)
    return replace(at, azimuths=_rough_azimuths(seen, at))


def _common_direction(seen: Observations, mask: Array, focal_px: float) -> Array:
    """The direction (3,) in camera axes to which the lines under the mask point most nearly."""
    common: Array = np.linalg.svd(_normals(seen, mask, focal_px))[2][-1]
    return common


def _normals(seen: Observations, mask: Array, focal_px: float) -> Array:
    """Unit normals (N, 3) of the interpretation planes of the lines under the mask, in camera axes."""
    p, q = seen.first[mask], seen.last[mask]
    depth = np.full((len(p), 1), focal_px)
    normals = np.cross(np.hstack([p, depth]), np.hstack([q, depth]))
    unit: Array = normals / np.linalg.norm(normals, axis=1)[:, None]
    return unit


def _rough_roll(seen: Observations) -> float:
    """The roll in radians that brings the lines nearest to their directions: a weighted mean of axes."""
    mask = seen.kinds < 2
    if not np.any(mask):
        mask = np.ones(len(seen.kinds), bool)
    along = (seen.last - seen.first)[mask]
    asked = np.where(
        seen.kinds[mask] == 1, np.arctan2(along[:, 0], along[:, 1]), -np.arctan2(along[:, 1], along[:, 0])
    )
    weight = np.sum(along**2, axis=1) * seen.weights[: len(seen.kinds)][mask]
    return 0.5 * float(np.arctan2(np.sum(weight * np.sin(2 * asked)), np.sum(weight * np.cos(2 * asked))))


def _rough_azimuths(seen: Observations, at: Unknowns) -> tuple[float, ...]:
    turn = at.attitude().rotation()
    rough = []
    for number in range(len(seen.group_names)):
        towards = turn @ _common_direction(seen, (seen.kinds == 2) & (seen.groups == number), at.focal_px)
        rough.append(float(np.arctan2(towards[0], towards[2])))
    return tuple(rough)
