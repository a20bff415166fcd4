"""The parts that the empty area of a frame falls into: each can have a take of its own."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Mask = NDArray[np.bool_]

SMALLEST = 16
"""Pixels from which a part is one of its own; less than that goes to the nearest."""

CORNERS = ("top left corner", "top right corner", "bottom right corner", "bottom left corner")
SIDES = {(0, 1): "top edge", (1, 2): "right edge", (2, 3): "bottom edge", (0, 3): "left edge"}
ALL = "all round"
ROUND = [name for pair in zip(CORNERS, SIDES.values(), strict=True) for name in pair] + [ALL]


@dataclass(frozen=True)
class EmptyPart:
    """One part: its name, its box [x, y, width, height] in the frame's pixels and its mask (height, width)
    in the box."""

    name: str
    box: tuple[int, int, int, int]
    mask: Mask

    @property
    def place(self) -> tuple[slice, slice]:
        """Where the box lies in an array of the frame's size."""
        x, y, width, height = self.box
        return np.s_[y : y + height, x : x + width]


def parts(hole: Mask) -> list[EmptyPart]:
    """The parts of a frame's empty area (h, w), clockwise from the top left; together they are all of it.

    Areas that hang together by less than three pixels are two.
    """
    if not hole.any():
        return []
    plain = hole.astype(np.uint8)
    # A frame that just touches the outline parts two corners by a point; in pixels they may still hang
    # together there.
    labels = _labels(np.asarray(cv2.erode(plain, np.ones((3, 3), np.uint8), borderValue=1), np.uint8))
    if labels is None:
        labels = _labels(plain)
    if labels is None:
        labels = np.ones(hole.shape, np.int32)
    found = []
    for label in np.unique(labels[hole]):
        mask = hole & (labels == label)
        rows, columns = np.nonzero(mask.any(axis=1))[0], np.nonzero(mask.any(axis=0))[0]
        top, left = int(rows[0]), int(columns[0])
        box = (left, top, int(columns[-1]) + 1 - left, int(rows[-1]) + 1 - top)
        found.append(EmptyPart(_name(mask), box, mask[top : top + box[3], left : left + box[2]]))
    return _each_its_own(sorted(found, key=lambda part: (ROUND.index(part.name), part.box)))


def _labels(plain: NDArray[np.uint8]) -> NDArray[np.int32] | None:
    """For every pixel the label of the nearest area that is large enough; None when there is none."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats(plain, connectivity=4)
    large = [index for index in range(1, count) if stats[index, cv2.CC_STAT_AREA] >= SMALLEST]
    if not large:
        return None
    if len(large) == 1:
        return np.full(plain.shape, large[0], np.int32)
    kept = np.isin(labels, large)
    _, nearest = cv2.distanceTransformWithLabels((~kept).astype(np.uint8), cv2.DIST_L2, 5)
    # Areas that touch one another across a corner have one number there: each pixel of one tells its own.
    of_nearest = np.zeros(int(nearest.max()) + 1, np.int32)
    of_nearest[nearest[kept]] = labels[kept]
    return np.asarray(np.where(kept, labels, of_nearest[nearest]), np.int32)


def _name(mask: Mask) -> str:
    corners = [bool(mask[0, 0]), bool(mask[0, -1]), bool(mask[-1, -1]), bool(mask[-1, 0])]
    at = tuple(index for index, inside in enumerate(corners) if inside)
    if len(at) == 1:
        return CORNERS[at[0]]
    if at in SIDES:
        return SIDES[at]
    if at:
        return ALL
    rows, columns = np.nonzero(mask)
    down, across = rows.mean() / len(mask), columns.mean() / mask.shape[1]
    return min(
        (down, "top edge"), (1 - across, "right edge"), (1 - down, "bottom edge"), (across, "left edge")
    )[1]


def _each_its_own(found: list[EmptyPart]) -> list[EmptyPart]:
    named: list[EmptyPart] = []
    for part in found:
        number = 1 + sum(one.name == part.name or one.name.startswith(f"{part.name} ") for one in named)
        name = part.name if number == 1 else f"{part.name} {number}"
        named.append(EmptyPart(name, part.box, part.mask))
    return named
