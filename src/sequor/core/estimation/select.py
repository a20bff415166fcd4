"""What the references say of the whole camera, whatever is taken out of the picture later.

The tilt and the aim are always looked for, the aim with what is known of how people aim; the turn aside where
it is asked for or a rectangle shows it, and the focal length where it is free. What the lines leave open
stays where it is known to be before any line, so that one line is a pure rotation wherever it lies.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from sequor.core.camera import Array, Intrinsics
from sequor.core.estimation.equations import Observations
from sequor.core.estimation.least_squares import least_squares, standard_error, standardised
from sequor.core.estimation.unknowns import Unknown, Unknowns

WIDEST_SD_DEG = 3.0
"""An angle that the lines leave more open than this is not determined by them."""

WIDEST_AIM_SD_DEG = 2.0
"""The same for the aim, of which something is known before any line."""

SETTLED_AIM_SD_DEG = 0.5
"""Lines that leave no more open of the aim than this settle it: what people do does not pull at it any more,
and walls come upright to the last digit."""

WIDEST_FOCAL_SD = 0.25
"""The same for the focal length, as a share of it."""

NOT_AT_ALL = 1.5
"""In radians, or as a share of the focal length: an unknown that is as open as this is not looked for."""

STEEPEST = math.radians(75)
"""Beyond it no photograph is levelled; what leads there is not determined."""

ROUGH_STEP = 1e-4
"""Near enough, in radians, to see whether an unknown is determined."""


def select_parameters(
    seen: Observations, free: Sequence[Unknown], camera: Intrinsics
) -> tuple[Observations, tuple[str, ...], Unknowns]:
    """The observations, with the prior of the aim left out where the lines settle it themselves; the
    unknowns; and their least-squares values. No unknowns: the lines do not say how the camera was held."""
    at = Unknowns(focal_px=camera.focal_px, terms=(0.0,) * len(seen.terms))
    if not seen.rows:
        return seen, (), at
    at = replace(at, roll=_rough_roll(seen))
    at = replace(at, azimuths=_rough_azimuths(seen, at))
    wanted: tuple[str, ...] = ("roll", "pitch", *seen.azimuths)
    if np.sum(seen.kinds == 1) >= 2 or seen.group_names:
        there = start("pitch", seen, at)
        told = pitch_standard_error_alone(seen, there, wanted)
        if told <= math.radians(WIDEST_AIM_SD_DEG):
            at = there
        if told <= math.radians(SETTLED_AIM_SD_DEG):
            seen = seen.with_aim(math.inf)
    at = least_squares(seen, at, wanted, until=ROUGH_STEP)
    if not roll_determined(seen, at, wanted):
        return seen, (), at
    more: list[Unknown] = ["yaw"] if "yaw" in free or not seen.separate else []
    for name in (*more, *(["focal_px"] if "focal_px" in free else [])):
        tried = (*wanted, name)
        # How people aim tells no focal length.
        alone = seen.with_aim(math.inf) if name == "focal_px" else seen
        begun = start(name, seen, at)
        if standard_error(alone, begun, tried, name) > NOT_AT_ALL:
            continue
        reached = least_squares(seen, begun, tried, until=ROUGH_STEP)
        widest = WIDEST_FOCAL_SD if name == "focal_px" else math.radians(WIDEST_SD_DEG)
        steepest = max(abs(reached.pitch), abs(reached.yaw))
        if standard_error(seen, reached, tried, name) <= widest and steepest < STEEPEST:
            wanted, at = tried, reached
    wanted = (*wanted, *seen.terms)
    return seen, wanted, least_squares(seen, at, wanted)


def pitch_standard_error_alone(
    seen: Observations, at: Unknowns, wanted: Sequence[str], weights: Array | float = 1.0
) -> float:
    """How much plumb and receding lines alone leave open of the pitch, without anything known of how people
    aim, as a standard deviation in radians.

    Level lines tell nothing: with one wall they only say by how much the wall leans, which may be its own
    lean. The lens is held as in :func:`pitch_determined`.
    """
    if abs(at.pitch) >= STEEPEST:
        return math.inf
    alone = seen.with_aim(math.inf)
    speaking: Array = (weights * np.isin(seen.owner, seen.owner[: len(seen.kinds)][seen.kinds > 0])).astype(
        float
    )
    return standard_error(alone, at, _held(seen, wanted), "pitch", speaking)


def pitch_determined(seen: Observations, at: Unknowns, wanted: Sequence[str]) -> bool:
    """Whether the aim is known well enough to be taken out, whatever lines tell it. The focal length and the
    lens are held: when they are wrong, the angle is, but the walls come upright."""
    widest = math.radians(WIDEST_AIM_SD_DEG)
    return "pitch" in wanted and standard_error(seen, at, _held(seen, wanted), "pitch") <= widest


def _held(seen: Observations, wanted: Sequence[str]) -> tuple[str, ...]:
    return tuple(name for name in wanted if name not in seen.terms)


def roll_determined(seen: Observations, at: Unknowns, wanted: Sequence[str]) -> bool:
    """Whether the tilt can be taken out: by any level or plumb line that is long enough, wherever it lies; by
    receding lines only where they leave little open."""
    widest = math.radians(WIDEST_SD_DEG)
    straight = np.append(seen.kinds < 2, np.zeros(seen.rows - len(seen.kinds), bool))
    if np.any(straight):
        slopes = standardised(seen, at, ("roll",))[1][straight, 0]
        return bool(slopes @ slopes >= widest**-2)
    return standard_error(seen, at, wanted, "roll") <= widest


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
    normals = seen.normals[mask] * [focal_px, focal_px, 1.0]
    unit: Array = normals / np.linalg.norm(normals, axis=1)[:, None]
    return unit


def _rough_roll(seen: Observations) -> float:
    """The roll in radians that brings the lines nearest to their directions: a weighted mean of axes."""
    mask = seen.kinds < 2
    if not np.any(mask):
        mask = np.ones(len(seen.kinds), bool)
    along = (seen.last - seen.first)[mask, :2]
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
