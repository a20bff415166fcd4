"""Straight things that run into a hole: where they would go on, and in which direction.

Masts, eaves and horizons are longer than a patch; a patch alone does not know that they go on. Segments are
found by the detector of R. Grompone von Gioi, J. Jakubowicz, J.-M. Morel and G. Randall (*LSD: A Fast Line
Segment Detector with a False Detection Control*, IEEE PAMI 32, 2010), as OpenCV has it.
"""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.fill.blend import Mask, Values

Points = NDArray[np.float64]
Vector = NDArray[np.float64]
Lines = NDArray[np.float32]
"""(n, 6): where a straight thing enters the hole (x, y), its direction into it (x, y), for how long it is
followed, and how much it counts, 0 to 1."""

SHORTEST = 30.0
"""Pixels from which a thing is long enough to be followed."""

SHORTEST_ACROSS = 16.0
"""The same for what is seen again on the other side of the hole,"""
ALIGNED_PX, ALIGNED_SHARE, ALIGNED_DEG = 2.0, 0.01, 4.0
"""on the same line, within so many pixels and such a share of the way, and degrees."""

SURELY = 80.0
"""Pixels from which it counts in full."""

BEGUN = 14.0
"""Pixels from which a segment is looked at."""

SCALES = (1, 2, 4)
"""Segments are looked for in the picture and in reductions: grain breaks the long ones,"""
ALL_SCALES_TO = 400_000
"""in a picture of more pixels only in reductions, which takes a third of the time."""

REACH = 80.0
"""A segment that would meet the hole within so many pixels may run into it."""

MOST = 150
"""So many segments are looked at, the longest."""

FOLLOWED = 3.0
"""A thing is followed for so many times its length,"""
FAR = 100.0
"""when that is so many pixels or more; a shorter one tells its direction less surely and is followed less."""

FLATTEST = float(np.sin(np.deg2rad(3.0)))
"""What runs along the border is its own edge and no thing."""

SAMPLES = 33
STEP = 2.0
WINDOW = 6
"""Steps over which an edge must go on to be the same,"""
STILL = 0.45
"""as strongly as so much of its segment."""

ON = np.array([-1.0, 0.0, 1.0])
"""Pixels off a line that are on the thing,"""
BESIDE = np.concatenate([np.arange(-12.0, -3.0), np.arange(4.0, 13.0)])
"""and beside it, where it is looked how much the picture changes anyway."""
CLEAR = 2.5
"""A thing changes the picture so many times as much: grain, leaves, ripples and soft clouds do not."""

SAME_PX, SAME_DEG = 2.5, 2.0


def guides(image: Values, hole: Mask) -> Lines:
    """The straight things of a picture (h, w, 3) that run into its hole (h, w), where it holds a guess."""
    grey = cv2.GaussianBlur(image.mean(axis=2), (0, 0), 1.2)
    slopes = cv2.Sobel(grey, cv2.CV_32F, 1, 0), cv2.Sobel(grey, cv2.CV_32F, 0, 1)
    deep = np.asarray(cv2.distanceTransform((~hole).astype(np.uint8), cv2.DIST_L2, 5), np.float32)
    found: list[tuple[float, ...]] = []
    for ends in _segments(grey, deep):
        line = _entering(ends, slopes, deep)
        if line is not None and not any(_same(line, other) for other in found):
            found.append(line)
    across = [_across(line, found) for line in found]
    # A short one is followed to where it is seen again, or not at all.
    kept = [
        (*line[:4], apart, 1.0) if apart else line
        for line, apart in zip(found, across, strict=True)
        if apart or line[4] >= _followed(SHORTEST)
    ]
    return np.array(kept, np.float32).reshape(-1, 6)


def _across(line: tuple[float, ...], lines: list[tuple[float, ...]]) -> float:
    """How far it is to where the same thing leaves the hole on its other side; 0 when it does not."""
    for other in lines:
        away = np.array(other[:2]) - line[:2]
        apart = float(away @ line[2:4])
        opposite = -(line[2] * other[2] + line[3] * other[3]) >= np.cos(np.deg2rad(ALIGNED_DEG))
        beside = abs(away[0] * line[3] - away[1] * line[2])
        if opposite and apart > 0 and beside <= ALIGNED_PX + ALIGNED_SHARE * apart:
            return apart
    return 0.0


def _segments(grey: Values, deep: Values) -> list[Points]:
    """Segments (2, 2) that point at the hole, the longest first; their last end is the nearer one."""
    detector = cv2.createLineSegmentDetector()
    found: list[tuple[float, Points]] = []
    for scale in SCALES if grey.size <= ALL_SCALES_TO else SCALES[1:]:
        size = (max(1, grey.shape[1] // scale), max(1, grey.shape[0] // scale))
        small = cv2.resize(grey, size, interpolation=cv2.INTER_AREA)
        lines: Any = detector.detect(np.clip(small, 0, 255).astype(np.uint8))[0]
        if lines is None:
            continue
        # The detector counts from the middle of the first pixel.
        one = (lines.reshape(-1, 2, 2).astype(np.float64) + 0.5) * scale
        # A horizon runs into the hole at both ends.
        ends = np.concatenate([one, one[:, ::-1]])
        ends[:, 1] = _before_hole(ends, deep)
        runs = ends[:, 1] - ends[:, 0]
        lengths = np.linalg.norm(runs, axis=1)
        before = ends[:, 1] - runs * (BEGUN / np.maximum(lengths, 1e-6))[:, None]
        away = _at(deep, ends[:, 1])
        nearing = (_at(deep, before) - away) / BEGUN
        chosen = (lengths >= BEGUN) & (nearing >= FLATTEST) & (away <= REACH * nearing)
        found += zip(lengths[chosen], ends[chosen], strict=True)
    return [ends for _, ends in sorted(found, key=lambda one: -one[0])[:MOST]]


def _before_hole(ends: Points, deep: Values) -> Points:
    """The last points (n, 2) of segments (n, 2, 2) before they enter the hole, or their ends."""
    shares = np.linspace(0, 1, SAMPLES)
    along = ends[:, 0, None] + shares[:, None] * (ends[:, 1] - ends[:, 0])[:, None]
    outside = _at(deep, along.reshape(-1, 2)).reshape(len(ends), SAMPLES) > 1.5
    entered = ~outside & np.logical_or.accumulate(outside, axis=1)
    last = np.where(entered.any(axis=1), np.argmax(entered, axis=1) - 1, SAMPLES - 1)
    return np.asarray(along[np.arange(len(ends)), last])


def _entering(ends: Points, slopes: tuple[Values, Values], deep: Values) -> tuple[float, ...] | None:
    """The line that a segment makes in the hole, when its edge goes on to it."""
    run = ends[1] - ends[0]
    length = float(np.hypot(*run))
    direction = run / length

    def strength(t: Vector) -> Vector:
        """How strongly the picture changes across the line, within a pixel of it."""
        return np.asarray(_changes(ends[0], direction, t, ON, slopes).mean(axis=0))

    own = strength(np.arange(0.1 * length, 0.9 * length, STEP))
    if not len(own) or abs(own.mean()) < 1e-6:
        return None
    sign, enough = np.sign(own.mean()), STILL * abs(own.mean())
    t = np.arange(-2 * SURELY, length + 2 * REACH, STEP)
    points = ends[0] + t[:, None] * direction
    away = _at(deep, points)
    height, width = deep.shape
    inside = (points[:, 0] >= 0) & (points[:, 1] >= 0) & (points[:, 0] < width) & (points[:, 1] < height)
    # Beside the hole the smooth guess tells of the picture's own end, not of what is in it.
    there = inside & (away > 3.0)
    smooth = np.convolve(sign * strength(t) * there, np.ones(WINDOW) / WINDOW, "same")
    share = np.convolve(there.astype(float), np.ones(WINDOW) / WINDOW, "same")
    goes_on = (smooth >= enough * np.maximum(share, 1e-6)) & (share > 0)
    middle = int(np.searchsorted(t, length / 2))
    first = last = middle
    while first > 0 and goes_on[first - 1] and there[first - 1]:
        first -= 1
    while last + 1 < len(t) and there[last + 1] and goes_on[last + 1]:
        last += 1
    if last + 1 >= len(t) or there[last + 1] or not inside[min(last + 4, len(t) - 1)]:
        return None
    point, along = ends[0], t[first : last + 1]
    # The second time it is looked for about the line that the first has found.
    for _ in range(2):
        fitted = _fitted(point, direction, sign, slopes, along)
        if fitted is None:
            return None
        point, direction = fitted
        along = along - along[-1]
    length = float(along[-1] - along[0])
    if length < SHORTEST_ACROSS or not _clear(point, direction, slopes, along):
        return None
    onwards = point + np.arange(0.0, 2 * REACH, 0.5)[:, None] * direction
    within = (onwards[:, 0] >= 0) & (onwards[:, 1] >= 0) & (onwards[:, 0] < width) & (onwards[:, 1] < height)
    entered = np.nonzero((_at(deep, onwards) <= 0) & within)[0]
    if not len(entered):
        return None
    x, y = onwards[entered[0]]
    sure = min(1.0, length / SURELY)
    return float(x), float(y), float(direction[0]), float(direction[1]), _followed(length), sure


def _followed(length: float) -> float:
    """For how many pixels a thing of this length is followed."""
    return FOLLOWED * length * min(1.0, length / FAR)


def _clear(end: Vector, direction: Vector, slopes: tuple[Values, Values], t: Vector) -> bool:
    """Whether the picture changes much more across an edge than it does beside it."""
    own = abs(float(_changes(end, direction, t, ON, slopes).mean()))
    return own >= CLEAR * float(np.median(np.abs(_changes(end, direction, t, BESIDE, slopes))))


def _changes(
    origin: Vector, direction: Vector, t: Vector, offs: Vector, slopes: tuple[Values, Values]
) -> Vector:
    """How much the picture changes across a line, (offs, t): at places along it, so many pixels off it."""
    normal = np.array([-direction[1], direction[0]])
    flat = ((origin + t[:, None] * direction)[None] + offs[:, None, None] * normal).reshape(-1, 2)
    across = _at(slopes[0], flat) * normal[0] + _at(slopes[1], flat) * normal[1]
    return np.asarray(across.reshape(len(offs), len(t)))


def _fitted(
    origin: Vector, direction: Vector, sign: float, slopes: tuple[Values, Values], t: Vector
) -> tuple[Vector, Vector] | None:
    """A line through the edge along these places: its last point and its direction."""
    normal = np.array([-direction[1], direction[0]])
    if len(t) < 6:
        return None
    offs = np.arange(-3.0, 3.01, 0.5)
    points = origin + t[:, None, None] * direction + offs[None, :, None] * normal
    flat = points.reshape(-1, 2)
    across = sign * (_smooth_at(slopes[0], flat) * normal[0] + _smooth_at(slopes[1], flat) * normal[1])
    across = np.clip(across.reshape(len(t), len(offs)), 0, None)
    weight = across.sum(axis=1)
    good = weight > 0.3 * np.median(weight)
    if good.sum() < 5:
        return None
    place = (across * offs).sum(axis=1) / np.maximum(weight, 1e-9)
    for _ in range(3):
        slope, start = np.polyfit(t[good], place[good], 1)
        error = np.abs(place - slope * t - start)
        good = (weight > 0.3 * np.median(weight)) & (error <= max(0.5, 2 * float(np.median(error[good]))))
        if good.sum() < 5:
            return None
    turned = direction + slope * normal
    turned /= np.hypot(*turned)
    end = origin + t[-1] * direction + (slope * t[-1] + start) * normal
    return end, turned


def _same(one: tuple[float, ...], other: tuple[float, ...]) -> bool:
    """Whether two lines enter at the same place in the same direction."""
    turn = abs(one[2] * other[3] - one[3] * other[2])
    near = np.hypot(one[0] - other[0], one[1] - other[1]) <= SAME_PX
    return bool(near and turn <= np.sin(np.deg2rad(SAME_DEG)))


def _at(values: Values, points: Points) -> Vector:
    """The nearest pixel's value at points (n, 2)."""
    rows = np.minimum(np.maximum(points[:, 1].astype(np.int32), 0), values.shape[0] - 1)
    columns = np.minimum(np.maximum(points[:, 0].astype(np.int32), 0), values.shape[1] - 1)
    return np.asarray(values[rows, columns], np.float64)


def _smooth_at(values: Values, points: Points) -> Vector:
    """Values at points (n, 2), pixel centres at halves, bilinear."""
    x, y = (points - 0.5).astype(np.float32).T
    return np.asarray(
        cv2.remap(values, x[:, None], y[:, None], cv2.INTER_LINEAR, None, cv2.BORDER_REPLICATE)[:, 0],
        np.float64,
    )


def guided(
    lines: Lines, scale: float, rows: NDArray[np.int32], columns: NDArray[np.int32], wide: float
) -> Values:
    """For patches at these rows and columns of a level the direction they are to follow and how much, (n, 3).

    ``scale``: pixels of the level for one of those that the lines were found in; ``wide``: pixels of the
    level on each side that a line has a say in.
    """
    out = np.zeros((len(rows), 3), np.float32)
    best = np.zeros(len(rows), np.float32)
    for x, y, dx, dy, length, sure in lines:
        across, down = columns + 0.5 - x * scale, rows + 0.5 - y * scale
        along, off = across * dx + down * dy, np.abs(across * dy - down * dx)
        near = (off <= wide) & (along >= -wide) & (along <= length * scale)
        if not near.any():
            continue
        much = sure * (1 - 0.5 * off[near] / wide) * (1 - 0.5 * np.maximum(along[near], 0) / (length * scale))
        at = np.nonzero(near)[0]
        better = much > best[at]
        best[at[better]] = much[better]
        out[at[better]] = np.column_stack(
            [np.full(better.sum(), dx), np.full(better.sum(), dy), much[better]]
        )
    return out
