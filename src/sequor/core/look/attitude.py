"""What a photo says by itself of how the camera was held: the lines that belong to the best mode, settled
together."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from sequor.core.camera import Array, Indices, Intrinsics
from sequor.core.distortion.models import Lens
from sequor.core.look.directions import (
    BAND_DEG,
    Direction,
    each_off_deg,
    horizontal_directions,
    off_deg,
    pointing,
    refined,
)
from sequor.core.look.horizon import level_edges
from sequor.core.look.lines import Lines, find_lines
from sequor.core.look.posterior import (
    RECORDED_SD,
    TEMPER,
    Evidence,
    FarEdge,
    Mode,
    Recorded,
    level_off,
    modes,
    nadir,
    steep_lines,
)

SEEDS = 3
"""Directions are sampled; where the seeds do not agree, the sampling and not the photo has spoken."""

HEAVIEST_LINES = 450
LEVEL_DEG, LEVEL_SDS = 0.6, 2.5
UPRIGHT_DEG = 0.5
FAR_OFF_DEG, FAR_HIGH_DEG, FAR_SD_DEG = 0.7, 14.0, 0.1
SQUARE_ON_DEG = 42.0
HEAVIEST_SAY, LOSS, TRIES = 1.5, 2.0, 30
PRIOR_SDS = (6.0, 15.0)
"""Of roll and pitch in the least squares, so that what nothing tells stays near to level."""
RIVAL_DEG = 1.0
NO_RIVAL = 12.0
FLOOR_DEG = 0.05
"""However many lines agree, nothing that is found is known better (FINDINGS of the prototype)."""


@dataclass(frozen=True)
class Seen:
    """``roll`` and ``pitch`` in degrees with their standard deviations; ``yaw`` of the direction that faces
    the camera, None without one; the ``lines``, which of them are ``uprights``, the ``level`` directions,
    ``far`` level edges.

    ``margin``: by how much the log posterior is above the best attitude with another roll; ``apart``: by how
    much the seeds differ in roll and pitch; ``purity``: the share of what is nearly upright that is upright;
    ``said_by_uprights``: their log likelihood ratio. ``azimuths``: of each level direction, as ``yaw``."""

    roll: float
    pitch: float
    roll_sd: float
    pitch_sd: float
    yaw: float | None
    lines: Lines
    uprights: Indices
    level: list[Direction]
    far: list[FarEdge]
    margin: float
    apart: tuple[float, float]
    purity: float
    said_by_uprights: float
    azimuths: list[float]


def look(
    picture: NDArray[np.uint8], camera: Intrinsics, lens: Lens, recorded: Recorded | None = None
) -> Seen | None:
    """Look at a photo (h, w, 3); camera and lens in its pixels; ``recorded``: how the camera says that it was
    held. None where there is no line at all."""
    grey = np.asarray(cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY), np.uint8)
    lines = find_lines(grey, camera, lens)
    middle = np.array([camera.width, camera.height]) / 2
    far = [
        FarEdge((one.ends - middle) / camera.focal_px, one.sd, one.likely)
        for one in level_edges(picture, lens)
    ]
    if not len(lines) and not far:
        return None
    # Without the focal length, where lines meet tells nothing of level; uprights and what is far do.
    if camera.source == "assumed":
        sampled: list[list[Direction]] = [[]]
    else:
        sampled = [_directions(lines, seed) for seed in range(SEEDS)]
    # As a rule all seeds find the same.
    apart = {frozenset(one.lines.tobytes() for one in directions): directions for directions in sampled}
    steep = steep_lines(lines)
    seen = [_look(Evidence(lines, steep, directions, far, recorded)) for directions in apart.values()]
    rolls, pitches = [one.roll for one in seen], [one.pitch for one in seen]
    best = min(seen, key=lambda one: abs(one.roll - np.median(rolls)) + abs(one.pitch - np.median(pitches)))
    return replace(best, apart=(float(np.ptp(rolls)), float(np.ptp(pitches))))


def _look(evidence: Evidence) -> Seen:
    best, *others = modes(evidence)
    rival = next((one for one in others if abs(one.roll - best.roll) > RIVAL_DEG), None)
    return _settled(evidence, best, NO_RIVAL if rival is None else best.height - rival.height)


def _directions(lines: Lines, seed: int) -> list[Direction]:
    """Horizontal directions, found among the heaviest lines and measured on all."""
    heavy = np.argsort(-lines.weight, kind="stable")[:HEAVIEST_LINES]
    free = np.ones(len(lines), bool)
    found = []
    for one in horizontal_directions(lines.some(heavy), np.random.default_rng(seed)):
        near = pointing(lines, one.towards)
        near = near[free[near]]
        towards, covariance = (
            refined(lines, near, one.towards) if len(near) > 2 else (one.towards, one.covariance)
        )
        free[near] = False
        found.append(Direction(towards, covariance, near, one.strength))
    return found


def _settled(evidence: Evidence, best: Mode, margin: float) -> Seen:
    """Least squares, with Cauchy's loss, of the lines that belong to a mode: over roll, pitch and an azimuth
    for each level direction."""
    lines = evidence.lines
    down = nadir(best.roll, best.pitch)
    steep = evidence.steep
    off = np.abs(off_deg(down, lines.middle[steep], lines.way[steep]))
    uprights = steep[off < np.maximum(LEVEL_SDS * lines.sd[steep], UPRIGHT_DEG)]
    about = steep[off < BAND_DEG]
    level = [one for one in evidence.directions if _is_level(one, down)]
    far = [one for one in evidence.far if _lies_far(one, down)]
    groups = [uprights, *(one.lines for one in level)]
    every = np.concatenate(groups)
    whose = np.repeat(np.arange(len(groups)), [len(one) for one in groups])
    middle, way = lines.middle[every], lines.way[every]
    say = np.sqrt(TEMPER * np.minimum(lines.weight[every], HEAVIEST_SAY)) / lines.sd[every]

    recorded = evidence.recorded
    told = (None, None) if recorded is None else (recorded.roll, recorded.pitch)

    def residuals(unknown: Array) -> Array:
        axes = _axes(unknown[0], unknown[1])
        towards = np.array([axes[0], *(_at_azimuth(axes, turn) for turn in unknown[2:])])[whose]
        edges = [float(level_off(axes[0], one)[0]) / FAR_SD_DEG * one.likely**0.5 for one in far]
        before = [unknown[0] / PRIOR_SDS[0], unknown[1] / PRIOR_SDS[1]]
        said = [
            (angle - one) / RECORDED_SD
            for angle, one in zip(unknown[:2], told, strict=True)
            if one is not None
        ]
        return np.concatenate([each_off_deg(towards, middle, way) * say, edges, before, said])

    axes = _axes(best.roll, best.pitch)
    turns = [float(np.degrees(np.arctan2(one.towards @ axes[2], one.towards @ axes[1]))) for one in level]
    fit = least_squares(
        residuals, [best.roll, best.pitch, *turns], loss="cauchy", f_scale=LOSS, max_nfev=TRIES
    )
    sd = np.sqrt(np.diag(np.linalg.pinv(fit.jac.T @ fit.jac)))
    facing = [
        (one.strength, _yaw(turn))
        for one, turn in zip(level, fit.x[2:], strict=True)
        if abs(_yaw(turn)) < SQUARE_ON_DEG
    ]
    return Seen(
        roll=float(fit.x[0]),
        pitch=float(fit.x[1]),
        roll_sd=max(FLOOR_DEG, float(sd[0])),
        pitch_sd=max(FLOOR_DEG, float(sd[1])),
        yaw=max(facing)[1] if facing else None,
        lines=lines,
        uprights=uprights,
        level=level,
        far=far,
        margin=margin,
        apart=(0.0, 0.0),
        said_by_uprights=float(evidence.uprights(nadir(fit.x[0], fit.x[1]), 0.0)),
        azimuths=[_yaw(turn) for turn in fit.x[2:]],
        purity=float(lines.weight[uprights].sum() / (lines.weight[about].sum() + 1e-9)),
    )


def _is_level(one: Direction, down: Array) -> bool:
    off = abs(np.degrees(np.arcsin(np.clip(one.towards @ down, -1, 1))))
    return bool(off < LEVEL_DEG + LEVEL_SDS * np.degrees(np.sqrt(down @ one.covariance @ down)))


def _lies_far(one: FarEdge, down: Array) -> bool:
    off, height = level_off(down, one)
    return bool(abs(off) < FAR_OFF_DEG and abs(height) < FAR_HIGH_DEG)


def _axes(roll: float, pitch: float) -> tuple[Array, Array, Array]:
    """Down, right and forwards (3,) each, level, of a camera held so."""
    down = nadir(roll, pitch)
    forwards = np.array([0.0, 0.0, 1.0])
    right = np.cross(down, forwards)
    right /= np.linalg.norm(right)
    return down, right, np.cross(right, down)


def _at_azimuth(axes: tuple[Array, Array, Array], turn: float) -> Array:
    return np.asarray(np.cos(np.radians(turn)) * axes[1] + np.sin(np.radians(turn)) * axes[2])


def _yaw(turn: float) -> float:
    """By how much the camera is turned against what faces it, where that runs at an azimuth."""
    return float((turn + 90) % 180 - 90)
