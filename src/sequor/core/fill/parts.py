"""The parts that the empty area of a frame falls into: each can have a take of its own."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.fill.areas import box_of

Mask = NDArray[np.bool_]

BESIDE = np.ones((3, 3), np.uint8)

MOST = 250
"""Parts at most: their numbers are bytes."""

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
    labels = _labels(hole)
    found = []
    for label in range(1, int(labels.max()) + 1):
        own = labels == label
        box = box_of(own)
        assert box is not None
        left, top, wide, high = box
        mask = own[top : top + high, left : left + wide]
        found.append(EmptyPart(_name(box, mask, hole.shape), box, mask))
    return _each_its_own(sorted(found, key=lambda part: (ROUND.index(part.name), part.box)))


def _labels(hole: Mask) -> NDArray[np.uint8]:
    """The number of the part that each pixel belongs to, from 1; 0 outside."""
    plain = hole.astype(np.uint8)
    # A frame that just touches the outline parts two corners by a point; in pixels they may still hang
    # together there.
    eroded = np.asarray(cv2.erode(plain, BESIDE, borderValue=1), np.uint8)
    for tried in (eroded, plain):
        count, labels, stats, _ = cv2.connectedComponentsWithStats(tried, connectivity=4)
        large = [at for at in range(1, count) if stats[at, cv2.CC_STAT_AREA] >= SMALLEST][:MOST]
        if large:
            break
    else:
        large, labels = [1], plain.astype(np.int32)
    number = np.zeros(count + 1, np.uint8)
    number[large] = np.arange(1, len(large) + 1)
    own = number[labels]
    # What the erosion has taken comes back; what is thinner than that goes to what it hangs on.
    own = np.where(own == 0, np.asarray(cv2.dilate(own, BESIDE), np.uint8), own) * plain
    rest = hole & (own == 0)
    if rest.any():
        _give_away(rest, own)
    return own


def _give_away(rest: Mask, own: NDArray[np.uint8]) -> None:
    """Give what belongs to no part to the one that it hangs on, else to the nearest, in place."""
    count, pieces = cv2.connectedComponents(rest.astype(np.uint8), connectivity=8)
    rows, columns = np.nonzero(rest)
    piece = pieces[rows, columns]
    best = np.zeros(count, np.uint8)
    beside = np.asarray(cv2.dilate(own, BESIDE), np.uint8)
    np.maximum.at(best, np.asarray(piece, np.int64), beside[rows, columns])
    at = np.nonzero(own)
    for alone in np.nonzero(best[1:] == 0)[0] + 1:
        first = int(np.argmax(piece == alone))
        nearest = int(np.argmin(np.hypot(at[0] - rows[first], at[1] - columns[first])))
        best[alone] = own[at[0][nearest], at[1][nearest]]
    own[rows, columns] = best[piece]


def _name(box: tuple[int, int, int, int], mask: Mask, shape: tuple[int, ...]) -> str:
    left, top, right, bottom = (
        box[0] == 0,
        box[1] == 0,
        box[0] + box[2] == shape[1],
        box[1] + box[3] == shape[0],
    )
    corners = [
        top and left and bool(mask[0, 0]),
        top and right and bool(mask[0, -1]),
        bottom and right and bool(mask[-1, -1]),
        bottom and left and bool(mask[-1, 0]),
    ]
    at = tuple(index for index, inside in enumerate(corners) if inside)
    if len(at) == 1:
        return CORNERS[at[0]]
    if at in SIDES:
        return SIDES[at]
    if at:
        return ALL
    down, across = (box[1] + box[3] / 2) / shape[0], (box[0] + box[2] / 2) / shape[1]
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
