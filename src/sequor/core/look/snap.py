"""Snap: a rough line becomes the real edge under it.

Across the rough line the picture is sampled at full resolution, along curves that the lens would bend
straight edges into. Every sample row votes with its gradient for the straight lines that pass through it
(a Hough vote, P. V. C. Hough 1962, over two parameters: where the line crosses both ends); the best one is
refined by the sub-pixel places of the gradient's peaks and Tukey's robust fit (P. J. Huber, E. M.
Ronchetti, *Robust Statistics*, 2nd ed., 2009, ch. 7).
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Array
from sequor.core.distortion.models import Lens
from sequor.core.raster.pixels import Picture, values_of
from sequor.core.references.line import SMALLEST_SIGMA_PX

REACH_PX = 14.0
"""How far from the rough line's middle the edge is looked for, in photo pixels."""

TURN_DEG = 2.2
"""By how much the edge may be turned against the rough line."""

SETTLED_PX = 1e-3
CANDIDATES = 4
APART_PX = 2.5
"""How far two lines with many votes must be apart at one end to be different ones."""

TRUEST_DEG = 0.02
"""However sharp its edge, no shore, wall or sill is known to run truer (common practice, no source)."""

SHORTEST_PX = 24.0
LEAST_CLARITY = 0.5
LEAST_CONTRAST = 1.5
FAINT = 4.5
"""An edge that stands out from its surroundings less than this must at least be straight ..."""

WANDER_PX = 0.2
"""... to this: crests of waves, clouds and branches are not."""

STEP = 0.5
GREY = np.array([0.299, 0.587, 0.114])
"""ITU-R BT.601 luma: what the eye takes for light and dark."""


class NoEdgeError(ValueError):
    """There is no clear edge under the rough line; the message says why."""


@dataclass(frozen=True)
class Snapped:
    """The edge: its ends (2, 2) in photo pixels as recorded, the standard deviation of an end across it, the
    share of the line along which it is seen (``clarity``, 0 to 1), and how far the farther end has moved."""

    points: Array
    sigma_px: float
    clarity: float
    moved_px: float


def snap(picture: Picture, rough: Array, lens: Lens) -> Snapped:
    """Find the edge near a rough line (2, 2), in photo pixels of ``picture`` (height, width, 3).

    Raises NoEdgeError with the reason.
    """
    height, width = picture.shape[:2]
    if np.any(rough < 0) or np.any(rough > [width, height]):
        raise NoEdgeError("an end is outside the photo")
    ideal = lens.undistorted(rough)
    if not np.all(np.isfinite(ideal)):
        raise NoEdgeError("an end is outside the area the lens profile covers")
    length = float(np.hypot(*(ideal[1] - ideal[0])))
    if length < SHORTEST_PX:
        raise NoEdgeError(f"the line is shorter than {SHORTEST_PX:.0f} px")
    strip = _Strip.cut(picture, ideal, lens)
    return _best(strip, rough, ideal, lens)


def snap_rectangle(picture: Picture, rough: Array, lens: Lens) -> Snapped:
    """Find the four edges near the sides of a rough rectangle (4, 2); its corners are where they meet.

    Raises NoEdgeError that names the side.
    """
    sides = []
    for index, name in enumerate(("top", "right", "bottom", "left")):
        try:
            sides.append(snap(picture, rough[[index, (index + 1) % 4]], lens))
        except NoEdgeError as error:
            raise NoEdgeError(f"its {name} side: {error}") from None
    ends = [lens.undistorted(side.points) for side in sides]
    corners = lens.distorted(np.array([_meeting(ends[index - 1], ends[index]) for index in range(4)]))
    return Snapped(
        points=corners,
        sigma_px=max(side.sigma_px for side in sides),
        clarity=min(side.clarity for side in sides),
        moved_px=float(np.hypot(*(corners - rough).T).max()),
    )


def _meeting(one: Array, other: Array) -> Array:
    """The point (2,) in which two lines (2, 2) meet."""
    first, second = (np.cross([*line[0], 1.0], [*line[1], 1.0]) for line in (one, other))
    homogeneous: Array = np.cross(first, second)
    point: Array = homogeneous[:2] / homogeneous[2]
    return point


@dataclass(frozen=True)
class _Strip:
    """Gradients across a rough line: (rows along it, columns across), by half a pixel across; the noise in
    them and the usual strength of the strongest edge in a row."""

    gradient: Array
    share: Array
    first_offset: float
    length: float
    noise: float
    strength: float

    @property
    def turn_px(self) -> float:
        """How far the edge's ends may lie to either side of its middle."""
        return float(np.tan(np.deg2rad(TURN_DEG))) * self.length / 2

    @classmethod
    def cut(cls, picture: Picture, ideal: Array, lens: Lens) -> _Strip:
        length = float(np.hypot(*(ideal[1] - ideal[0])))
        along = (ideal[1] - ideal[0]) / length
        across = np.array([-along[1], along[0]])
        reach = REACH_PX + length / 2 * np.tan(np.deg2rad(TURN_DEG)) + 4
        rows = int(np.clip(length / 2, 40, 500))
        share = (np.arange(rows) + 0.5) / rows
        offsets = np.arange(-np.ceil(reach / STEP), np.ceil(reach / STEP) + 1) * STEP
        places = ideal[0] + share[:, None, None] * length * along + offsets[None, :, None] * across
        recorded = lens.distorted(places.reshape(-1, 2)).reshape(places.shape) - 0.5
        grey = _sample(picture, recorded.astype(np.float32)) @ GREY
        grey = cv2.GaussianBlur(grey, (0, 0), sigmaX=0.8 / STEP, sigmaY=max(0.3, 1.5 * rows / length))
        gradient = np.gradient(grey, STEP, axis=1)
        inside = np.all((recorded > 1) & (recorded < [picture.shape[1] - 2, picture.shape[0] - 2]), axis=2)
        gradient = np.where(inside, gradient, 0.0)
        noise = 1.4826 * float(np.median(np.abs(gradient[inside]))) if np.any(inside) else 0.0
        noise = max(noise, 0.25)
        # Where something dazzles it counts no more than along the rest of the line.
        strength = max(3 * noise, float(np.median(np.abs(gradient).max(axis=1))))
        return cls(gradient, share, float(offsets[0]), length, noise, strength)


def _sample(picture: Picture, places: NDArray[np.float32]) -> Array:
    """The picture's values, 0 to 255, at places (..., 2) from pixel centres, by cubic interpolation."""
    low = np.floor(places.reshape(-1, 2).min(axis=0)).astype(int) - 3
    high = np.ceil(places.reshape(-1, 2).max(axis=0)).astype(int) + 4
    left, top = (max(0, int(value)) for value in low)
    part = picture[top : max(int(high[1]), top + 1), left : max(int(high[0]), left + 1)]
    x, y = places[..., 0] - np.float32(left), places[..., 1] - np.float32(top)
    found = np.asarray(cv2.remap(part, x, y, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE), picture.dtype)
    return np.asarray(values_of(found), np.float64)


def _voted(strip: _Strip) -> list[tuple[float, float, float]]:
    """The lines with the most votes: their offsets at both ends, and the sign of the gradient."""
    most = 160
    pick = np.linspace(0, len(strip.share) - 1, min(most, len(strip.share))).astype(int)
    votes = np.tanh(strip.gradient[pick] / strip.strength)
    turn = strip.turn_px
    middles = np.arange(-REACH_PX, REACH_PX + 0.1, 1.0)
    leans = np.linspace(-turn, turn, 2 * int(np.ceil(turn)) + 1)
    rows = np.arange(len(pick))
    sums = np.empty((len(leans), len(middles)))
    for index, lean in enumerate(leans):
        shift = lean * (2 * strip.share[pick] - 1) - strip.first_offset
        columns = np.round((middles[:, None] + shift) / STEP).astype(np.intp)
        sums[index] = votes[rows, columns].sum(axis=1)
    scores = np.abs(sums) * _nearness(middles, leans[:, None] / max(turn, 1.0))
    found = []
    for _ in range(CANDIDATES):
        at = np.unravel_index(int(np.argmax(scores)), scores.shape)
        lean, middle = float(leans[at[0]]), float(middles[at[1]])
        found.append((middle - lean, middle + lean, float(np.sign(sums[at]))))
        ends = np.stack([middles - leans[:, None], middles + leans[:, None]])
        apart = np.abs(ends - np.array(found[-1][:2])[:, None, None]).max(axis=0)
        scores = np.where(apart < APART_PX, 0.0, scores)
    return found


def _nearness(middle: Array | float, turned: Array | float) -> Array:
    """The nearer of two edges that are equally clear is the one that was meant; ``turned`` is a share."""
    near: Array = np.asarray(1 - 0.15 * np.abs(middle) / REACH_PX - 0.1 * np.abs(turned))
    return near


def _best(strip: _Strip, rough: Array, ideal: Array, lens: Lens) -> Snapped:
    """The candidate that is seen along most of the line and most strongly; else why there is none."""
    turn = max(strip.turn_px, 1.0)
    found: list[tuple[float, Snapped]] = []
    refused: list[NoEdgeError] = []
    for first, last, sign in _voted(strip):
        try:
            snapped, strength = _refined(strip, rough, ideal, lens, first, last, sign)
        except NoEdgeError as error:
            refused.append(error)
            continue
        near = float(_nearness((first + last) / 2, (last - first) / 2 / turn))
        found.append((snapped.clarity * float(np.sqrt(strength)) * near, snapped))
    if not found:
        raise refused[0]
    return max(found, key=lambda one: one[0])[1]


def _refined(
    strip: _Strip, rough: Array, ideal: Array, lens: Lens, first: float, last: float, sign: float
) -> tuple[Snapped, float]:
    """The edge near a candidate, and how strong it is, 0 to 1, where it is seen."""
    gradient, share = sign * strip.gradient, strip.share
    rows = np.arange(len(share))
    basis = np.column_stack([1 - share, share])
    ends = np.array([first, last])
    for window in (3.0, 2.0, 1.5, 1.5):
        span = int(window / STEP)
        centre = np.round((basis @ ends - strip.first_offset) / STEP).astype(np.intp)
        near = centre[:, None] + np.arange(-span, span + 1)
        near = np.clip(near, 1, gradient.shape[1] - 2)
        peak = near[rows, np.argmax(gradient[rows[:, None], near], axis=1)]
        before, top, after = (gradient[rows, peak + step] for step in (-1, 0, 1))
        bow = before - 2 * top + after
        rise = np.where(bow < 0, 0.5 * (before - after) / np.where(bow < 0, bow, -1.0), 0.0)
        place = strip.first_offset + (peak + np.clip(rise, -1, 1)) * STEP
        inner = (peak > near[:, 0]) & (peak < near[:, -1])
        seen = inner & (top > max(LEAST_CONTRAST, strip.noise))
        if np.sum(seen) < max(8, 0.25 * len(share)):
            raise NoEdgeError("there is no edge along most of the line")
        ends, weight, scatter = _tukey(basis[seen], place[seen])
    left = place[seen] - basis[seen] @ ends
    on_it = np.abs(left) < 1.0
    clarity = float(np.sum(on_it) / len(share))
    if clarity < LEAST_CLARITY:
        raise NoEdgeError(f"an edge is visible along only {100 * clarity:.0f}% of the line")
    if np.median(top[seen]) < FAINT * strip.noise and _wander(left) > WANDER_PX:
        raise NoEdgeError("the edge there is too faint or not straight")
    sd = _end_sd(basis[seen], left, weight, scatter)
    crooked = strip.length * np.deg2rad(TRUEST_DEG) / np.sqrt(2)
    along = (ideal[1] - ideal[0]) / strip.length
    across = np.array([-along[1], along[0]])
    found = lens.distorted(ideal + ends[:, None] * across)
    snapped = Snapped(
        points=found,
        sigma_px=float(max(SMALLEST_SIGMA_PX, np.hypot(sd, crooked))),
        clarity=clarity,
        moved_px=float(np.hypot(*(found - rough).T).max()),
    )
    return snapped, float(np.mean(np.tanh(top[seen][on_it] / strip.strength)))


def _tukey(basis: Array, place: Array) -> tuple[Array, Array, float]:
    """Tukey's biweight fit of two end offsets; the weights (N,) and the scatter of the places."""
    weight = np.ones(len(place))
    ends: Array = np.zeros(2)
    for _ in range(12):
        before, pull = ends, basis * (weight**2)[:, None]
        ends = np.asarray(np.linalg.solve(pull.T @ basis, pull.T @ place), np.float64)
        left = place - basis @ ends
        scatter = max(0.05, 1.4826 * float(np.median(np.abs(left))))
        weight = np.clip(1 - (left / (4.685 * scatter)) ** 2, 0, None)
        if np.abs(ends - before).max() < SETTLED_PX:
            break
    return ends, weight, scatter


def _wander(left: Array) -> float:
    """How far an edge strays from a straight line slowly: the scatter of its mean over an eighth of it."""
    span = max(3, len(left) // 8)
    return float(np.std(np.convolve(left, np.full(span, 1 / span), "valid")))


def _end_sd(basis: Array, left: Array, weight: Array, scatter: float) -> float:
    """Standard deviation of an end across the line. Neighbouring rows see the same bricks: their errors hang
    together, which the autocorrelation of the residuals tells."""
    clipped = np.where(weight > 0, left, 0.0)
    energy = float(clipped @ clipped) or 1.0
    together = 1.0
    for lag in range(1, len(clipped) // 3):
        alike = float(clipped[lag:] @ clipped[:-lag]) / energy
        if alike <= 0.05:
            break
        together += 2 * alike
    information = (basis * (weight > 0)[:, None]).T @ basis
    spread = np.linalg.inv(information) * scatter**2 * together
    return float(np.sqrt(max(spread[0, 0], spread[1, 1])))
