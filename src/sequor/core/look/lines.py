"""Straight things of a photo as measured lines about its principal point, the bending of the lens taken out.

By the detector of R. Grompone von Gioi, J. Jakubowicz, J.-M. Morel and G. Randall (*LSD: A Fast Line Segment
Detector with a False Detection Control*, IEEE PAMI 32, 2010), as OpenCV has it. Pieces of one edge are put
together and fitted anew."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from functools import cached_property
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Array, Indices, Intrinsics
from sequor.core.distortion.models import Lens

FINE = 1600
"""Pixels of the longer side at which the photo is looked at; all lengths here are in those."""

SHORTEST = 20.0
BORDER = 0.006
"""Of the longer side: what keeps so near to the border is the border of a scan."""

REACH, ACROSS, TURN = 90.0, 1.3, np.radians(0.9)
"""Gaps within an edge, and how far and how much turned its pieces lie."""

PLACE = 0.7
"""Standard deviation of a line's end across it."""
CROOKED_DEG = 0.12
"""How true the edges of what is built run."""

HEAVIEST, UNIT = 240.0, 96.0
"""A line weighs as much as its support, up to so many pixels, in units of so many."""

BESIDE, ALONGSIDE, PARALLEL = 0.03, 0.25, 0.035
"""Of the picture, and as a sine: lines so near beside one another and so parallel are one thing (a post, a
plank, a bundle of cables)."""
FULL_WITNESSES = 2.0


@dataclass(frozen=True)
class Lines:
    """N lines. ``starts`` and ``ends`` (N, 2) in focal lengths from the principal point, x right, y down;
    ``support`` (N,) in pixels: how much of a line is seen; ``sd`` (N,) of its direction in degrees;
    ``weight`` (N,): how much each says."""

    starts: Array
    ends: Array
    support: Array
    sd: Array
    weight: Array

    def __len__(self) -> int:
        return len(self.support)

    def some(self, chosen: Indices | NDArray[np.bool_]) -> Lines:
        """Some of them."""
        return replace(self, **{field.name: getattr(self, field.name)[chosen] for field in fields(self)})

    @cached_property
    def middle(self) -> Array:
        """Their middles (N, 2)."""
        return (self.starts + self.ends) / 2

    @cached_property
    def way(self) -> Array:
        """Their directions (N, 2), of length 1."""
        along = self.ends - self.starts
        return np.asarray(along / np.linalg.norm(along, axis=1, keepdims=True))

    @cached_property
    def ray(self) -> Array:
        """The rays (N, 3) to their middles, of length 1."""
        return _of_length_one(np.c_[self.middle, np.ones(len(self))])

    @cached_property
    def normal(self) -> Array:
        """The normals (N, 3), of length 1, of the planes that they span with the camera."""
        one = np.ones(len(self))
        return _of_length_one(np.cross(np.c_[self.starts, one], np.c_[self.ends, one]))


def weights(lines: Lines) -> Array:
    """How much each says (N,): what runs side by side is one witness, however many edges it has."""
    own = np.minimum(lines.support, HEAVIEST) / UNIT
    if not len(lines):
        return np.asarray(own)
    unit = float(np.abs(lines.middle).max())
    crowd = np.empty(len(lines))
    for one, (place, way) in enumerate(zip(lines.middle, lines.way, strict=True)):
        apart = lines.middle - place
        parallel = np.abs(lines.way[:, 0] * way[1] - lines.way[:, 1] * way[0]) <= PARALLEL
        beside = np.abs(apart[:, 1] * way[0] - apart[:, 0] * way[1]) < BESIDE * unit
        along = np.abs(apart @ way) < ALONGSIDE * unit
        crowd[one] = own[parallel & beside & along].sum()
    return np.asarray(own / np.maximum(1.0, crowd / FULL_WITNESSES))


def find_lines(grey: NDArray[np.uint8], camera: Intrinsics, lens: Lens) -> Lines:
    """The straight things of a photo. ``grey`` (h, w) at any size; ``camera`` and ``lens`` in its pixels."""
    # numba takes half a second to load: only who looks waits for it.
    from sequor.core.look.merging import merge

    height, width = grey.shape
    unit = FINE / max(height, width)
    scale = min(1.0, unit)
    small = grey if scale == 1 else cv2.resize(grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    pieces = _pieces(np.asarray(small, np.uint8)) / scale
    if not lens.straight:
        pieces = lens.undistorted(pieces.reshape(-1, 2)).reshape(-1, 2, 2)
        pieces = pieces[np.isfinite(pieces).all(axis=(1, 2))]
    pieces = (pieces - [width / 2, height / 2]) * unit
    lengths = np.linalg.norm(pieces[:, 1] - pieces[:, 0], axis=1)
    order = np.argsort(-lengths, kind="stable")
    order = order[lengths[order] > 0]
    pieces, lengths = pieces[order], lengths[order]
    ways = (pieces[:, 1] - pieces[:, 0]) / lengths[:, None]
    flat = np.ascontiguousarray(pieces.reshape(-1, 4))
    merged, support = merge(flat, lengths, np.ascontiguousarray(ways), REACH, ACROSS, TURN)
    kept = support > SHORTEST
    support = support[kept]
    ends = merged[kept].reshape(-1, 2, 2) / (camera.focal_px * unit)
    lines = Lines(
        ends[:, 0],
        ends[:, 1],
        support,
        np.hypot(np.degrees(PLACE / np.maximum(support, 1.0)), CROOKED_DEG),
        np.zeros(len(support)),
    )
    return replace(lines, weight=weights(lines))


def _pieces(grey: NDArray[np.uint8]) -> Array:
    """The ends (N, 2, 2) of straight pieces, none along the border."""
    found: Any = cv2.createLineSegmentDetector(cv2.LSD_REFINE_STD).detect(grey)[0]
    if found is None:
        return np.zeros((0, 2, 2))
    # OpenCV counts from pixel centres.
    ends = np.asarray(found, np.float64).reshape(-1, 2, 2) + 0.5
    height, width = grey.shape
    inside = np.minimum(ends, [width, height] - ends).min(axis=2).max(axis=1)
    return np.asarray(ends[inside > BORDER * max(height, width)])


def _of_length_one(vectors: Array) -> Array:
    return np.asarray(vectors / np.linalg.norm(vectors, axis=1, keepdims=True))
