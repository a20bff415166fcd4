"""The far horizon: a long, nearly level edge whose two sides differ, though soft or crossed by masts and
grass.

A detector of segments breaks such an edge up. Here its differences of light and colour are summed along the
lines that it may be, the best lines are followed column by column, and each is judged: whether it is seen all
along, runs straight, and parts what is calm, as sky and water are, from something else."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Array
from sequor.core.distortion.models import Lens

SIDE = 512
"""Pixels of the longer side at which it is looked for; all lengths here are in those."""

STEEPEST_DEG, STEP_DEG = 16.0, 0.4
LEVELS = np.array([2.55, 1.0, 1.0])
"""Lightness as levels of 255; colour as it is."""
BLUR, REACHES, LEAST_USUAL = 1.2, (4, 12), 0.6
"""How the picture is smoothed, how far above and below an edge its sides are compared, sharp and soft, and
the least step that is taken for usual."""

LEAST_SUM, MOST, APART, APART_SLOPES = 0.22, 6, 6, 4
FROM_BORDER = 0.06
"""Of the height."""

FOLLOWED, NEAR = (10, 7, 5, 4, 3, 2, 2), 1.6
"""How far from its line an edge is looked for, column by column, round by round; how near it must be found to
belong."""
BOWS_FROM, MOST_BOW, BOWS_FOR = 5, 0.015, 0.25
"""From which of these on an edge may be bowed, by how much of the width it may leave its chord, and how much
likelier that must make it."""
FAINT, BELONGS, STRONG = 1.0, 1.5, 6.0
"""Of what is usual in the photo: how strong an edge must be to count, to belong, and to count fully."""
LEAST_COLUMNS = 0.3

CALM = 3.0
"""Levels a pixel: less light and shade than that is sky, mist or water, or out of focus."""
BESIDE, SIDE_SHARE = 4, 0.12
"""From where on, and of the height how far, what is beside an edge is looked at."""

NOISE, FAINT_NOISE, CROOKED = 0.2, 1.0, 0.45
"""By how many pixels noise alone throws the course of an edge about, the more the fainter it is; more than
that, by so much, is crooked as skylines and the borders of meadows are."""
HARDLY_SEEN, WELL_SEEN, CALM_ENOUGH = 0.35, 0.65, 0.6
MOST_LIKELY, CLEARLY, LEAST_LIKELY = 0.9, 0.8, 0.1
ALIKE_COLUMNS = 8
"""So many columns err alike."""


@dataclass(frozen=True)
class Level:
    """A long, nearly level edge. ``ends`` (2, 2) in pixels of the photo looked at, the bending of the lens
    taken out; ``sd``: standard deviation of its slope in degrees; ``crooked``: by how much its course is less
    straight than noise would make it; ``likely``: how likely it is far and level."""

    ends: Array
    sd: float
    crooked: float
    likely: float


def level_edges(picture: NDArray[np.uint8], lens: Lens) -> list[Level]:
    """Such edges of a photo (h, w, 3), the likeliest first; ``lens`` in its pixels."""
    height, width = picture.shape[:2]
    scale = min(1.0, SIDE / max(height, width))
    small = _straight(picture, lens, scale)
    lab = np.asarray(cv2.cvtColor(small.astype(np.float32) / np.float32(255), cv2.COLOR_RGB2LAB), float)
    lab = np.asarray(cv2.GaussianBlur(lab * LEVELS, (0, 0), BLUR), float)
    # numba takes half a second to load: only who looks waits for it.
    from sequor.core.look.summing import summed

    slopes = np.tan(np.radians(np.arange(-STEEPEST_DEG, STEEPEST_DEG + STEP_DEG / 2, STEP_DEG)))
    across, down = (
        np.asarray(cv2.Sobel(lab[..., 0], cv2.CV_64F, *way, scale=1 / 8), float) for way in ((1, 0), (0, 1))
    )
    calm = np.hypot(across, down) < CALM
    sides = []
    for reach in REACHES:
        step = _step(lab, reach)
        usual = np.maximum(LEAST_USUAL, 1.4826 * np.median(np.abs(step), axis=(0, 1)))
        sides.append(_Sides(step, usual, reach))
    sums = np.linalg.norm(summed(_votes(across, down, sides[0]), slopes), axis=2)
    found = [
        _edge(sides, float(slopes[at]), float(middle), calm, scale, lens.straight)
        for at, middle in _peaks(sums)
    ]
    apart: list[Level] = []
    for edge in sorted((one for one in found if one is not None), key=lambda one: -one.likely):
        far_enough = (abs(_at_middle(edge) - _at_middle(one)) > APART / scale for one in apart)
        if edge.likely > LEAST_LIKELY and all(far_enough):
            apart.append(edge)
    return apart


@dataclass(frozen=True)
class _Sides:
    """By how much the picture (h, w, 3) is other below each border of two rows than above it, ``reach`` rows
    compared, and what of that is usual in it (3,)."""

    step: Array
    usual: Array
    reach: int


def _edge(
    sides: list[_Sides],
    slope: float,
    middle: float,
    calm: NDArray[np.bool_],
    scale: float,
    may_bow: bool,
) -> Level | None:
    """The edge along a rough line, sharp or soft, as it is the likelier; bowed only where straight it is not
    clear."""
    best: Level | None = None
    for bowed, one in itertools.product((False, True) if may_bow else (False,), sides):
        course = _followed(one, slope, middle, bowed)
        edge = None if course is None else _judged(course, calm, scale)
        gained = 0.0 if best is None else best.likely + (BOWS_FOR if bowed else 0.0)
        if edge is not None and edge.likely > gained:
            best = edge
        if best is not None and best.likely > CLEARLY:
            break
    return best


def _at_middle(edge: Level) -> float:
    return float(edge.ends[:, 1].mean())


def _straight(picture: NDArray[np.uint8], lens: Lens, scale: float) -> NDArray[np.uint8]:
    small = cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    if lens.straight:
        return np.asarray(small)
    height, width = small.shape[:2]
    y, x = np.mgrid[:height, :width] + 0.5
    at = np.nan_to_num(lens.scaled(scale).distorted(np.c_[x.ravel(), y.ravel()]), nan=-1.0)
    at = at.reshape(height, width, 2) - 0.5
    return np.asarray(
        cv2.remap(
            small,
            at[..., 0].astype(np.float32),
            at[..., 1].astype(np.float32),
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )
    )


def _step(lab: Array, reach: int) -> Array:
    """By how much the picture (h, w, 3) is other below each border of two rows than above it."""
    below = cv2.boxFilter(lab, -1, (1, reach), anchor=(0, 0))
    above = cv2.boxFilter(lab, -1, (1, reach), anchor=(0, reach - 1))
    return np.asarray(below - np.roll(above, 1, axis=0))


def _votes(across: Array, down: Array, sides: _Sides) -> Array:
    """How much each place speaks for an edge that runs across there."""
    least = sides.usual[0] / 4
    level = (np.abs(down) + least) / (np.hypot(across, down) + least)
    return np.asarray(np.tanh(sides.step / (2 * sides.usual)) * level[..., None])


def _peaks(sums: Array) -> list[tuple[int, int]]:
    """The highest sums that lie apart, by slope and height."""
    left = sums.copy()
    edge = round(FROM_BORDER * sums.shape[1])
    left[:, :edge] = left[:, len(left[0]) - edge :] = 0
    found = []
    for _ in range(MOST):
        at, middle = (int(one) for one in np.unravel_index(int(left.argmax()), left.shape))
        if left[at, middle] < LEAST_SUM:
            break
        found.append((at, middle))
        left[
            max(0, at - APART_SLOPES) : at + APART_SLOPES + 1, max(0, middle - APART) : middle + APART + 1
        ] = 0
    return found


@dataclass(frozen=True)
class _Course:
    """An edge followed through the columns: its height at the middle and its slope, by how much each column's
    edge is off it, and which columns belong to it; how strong it is."""

    middle: float
    slope: float
    off: Array
    belongs: NDArray[np.bool_]
    size: float


def _followed(sides: _Sides, slope: float, middle: float, may_bow: bool) -> _Course | None:
    """Follow an edge from a rough line, column by column, with Tukey's weights; None where it gets lost.

    An unknown lens may bow it evenly: then it runs as the camera was held where it is nearest the middle."""
    step, side = sides.step, sides.reach
    height, width = step.shape[:2]
    x = _across(width)
    columns = np.arange(width)
    bow, most = 0.0, MOST_BOW * width / (width / 2) ** 2
    for reach in FOLLOWED:
        course = middle + slope * x + bow * x**2
        rows = np.round(course).astype(int)[:, None] + np.arange(-reach, reach + 1)
        inside = (rows >= side) & (rows <= height - side)
        here = step[np.clip(rows, 0, height - 1), columns[:, None]] / sides.usual
        on = inside[:, reach]
        towards = np.median(here[on, reach], axis=0) if on.any() else np.zeros(3)
        size = float(np.linalg.norm(towards))
        if size == 0:
            return None
        said = np.where(inside, here @ (towards / size), -np.inf)
        best = said.argmax(axis=1)
        strong = said[columns, best]
        off = rows[columns, best] + _between(said, best) - course
        weight = np.clip(1 - (off / max(NEAR, reach)) ** 2, 0, None) ** 2
        weight *= np.where(strong > FAINT, np.minimum(strong, STRONG), 0)
        if np.count_nonzero(weight) < LEAST_COLUMNS * width:
            return None
        bows = may_bow and reach <= BOWS_FROM
        fit = np.polynomial.polynomial.polyfit(x, off, 2 if bows else 1, w=np.sqrt(weight))
        middle, slope = middle + fit[0], slope + fit[1]
        bow = float(np.clip(bow + fit[2], -most, most)) if bows else bow
    off = off + course - middle - slope * x - bow * x**2
    belongs = (np.abs(off) < NEAR) & (strong > BELONGS)
    return _Course(middle + bow * float(np.mean(x**2)), slope, off, belongs, size)


def _across(width: int) -> Array:
    return np.asarray(np.arange(width) + 0.5 - width / 2, float)


def _judged(course: _Course, calm: NDArray[np.bool_], scale: float) -> Level | None:
    """What a course says of itself; ``calm`` (h, w): which of the small picture is."""
    height, width = calm.shape
    on = np.flatnonzero(course.belongs)
    if len(on) < LEAST_COLUMNS * width:
        return None
    off = course.off[on]
    spread = float(np.sqrt(np.mean(off**2)))
    crooked = np.sqrt(max(0.0, spread**2 - (NOISE + FAINT_NOISE / course.size) ** 2))
    y = course.middle + course.slope * _across(width)
    down = np.arange(height)[:, None] + 0.5 - y
    above, below = down < -BESIDE, down > BESIDE
    beside = np.abs(down) < SIDE_SHARE * height
    sky = float(calm[above].mean()) if above.any() else 0.0
    sides = [float(calm[one & beside].mean()) if (one & beside).any() else 0.0 for one in (above, below)]
    seen = len(on) / width
    likely = (
        MOST_LIKELY
        * np.clip((seen - HARDLY_SEEN) / (WELL_SEEN - HARDLY_SEEN), 0, 1)
        * np.exp(-((crooked / CROOKED) ** 2))
        * np.clip((sky + max(sides)) / 2 / CALM_ENOUGH, 0, 1)
    )
    ends = np.array([on[0], on[-1]]) + 0.5
    at = np.c_[ends, course.middle + course.slope * (ends - width / 2)] / scale
    apart = np.sqrt(len(on) / ALIKE_COLUMNS) * np.ptp(ends) / np.sqrt(12)
    return Level(at, float(np.degrees(spread / apart)), float(crooked), float(likely))


def _between(said: Array, best: Array) -> Array:
    """Where the peak lies between rows, by a parabola."""
    rows = np.arange(len(best))
    inner = np.clip(best, 1, said.shape[1] - 2)
    before, here, after = said[rows, inner - 1], said[rows, inner], said[rows, inner + 1]
    with np.errstate(invalid="ignore", divide="ignore"):
        shift = 0.5 * (before - after) / (before - 2 * here + after)
    return np.asarray(np.where(np.isfinite(shift) & (best == inner), np.clip(shift, -0.5, 0.5), 0.0))
