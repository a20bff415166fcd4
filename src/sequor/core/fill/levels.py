"""A picture with a hole in halves, coarse to fine, and the patches of one size of it."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.fill.blend import Mask, Values, membrane, nearest_usable
from sequor.core.fill.kernels import HALF, PATCH, vote
from sequor.core.fill.receding import Views

Indices = NDArray[np.int32]


REPEATED_PIXELS = 1_300_000
"""Levels of at most so many pixels are repeated until they rest, and the first two: a thin hole has no
others."""

THINNEST = 4.0
"""Pixels of thickness under which a hole is not made coarser,"""

DETAIL = np.float32(18.0)
"""What a code value of detail that a patch lacks costs, as the root of squared differences;"""
AROUND = 8.0
"""Pixels about which it is looked how much detail there is around a hole."""

NOTHING = np.zeros((1, 1), np.float32)
"""Of which nothing is known at any pixel."""

SMALLEST_SIDE = 64
"""nor a picture."""


class NothingToCopyError(ValueError):
    """The picture has no room for a single known patch."""


@dataclass
class Level:
    """One size of the picture, its hole (``at``: the pixels of it), and for every patch that touches the hole
    where it comes from. The ``canvas`` is the picture with its ``views`` beneath; ``usable``, where patches
    may come from, ``detail`` and ``rarity`` are of all of it, and all else of the picture."""

    canvas: Values
    views: Views
    hole: Mask
    at: tuple[Indices, Indices]
    usable: Mask
    number: Indices
    rows: Indices
    columns: Indices
    from_row: Indices
    from_column: Indices
    cost: Values
    trust: Values
    guide: Values
    detail: Values
    wanted: Values
    rarity: Values

    @property
    def image(self) -> Values:
        """The picture itself, (h, w, 3)."""
        return self.canvas[: len(self.hole)]

    @classmethod
    def of(cls, size: Size, views: Views, last: bool = True) -> Level:
        """A level whose patches have no place yet. Raises NothingToCopyError.

        On the ``last`` no pixel of what is barred is copied; a coarser one, where a barred area may leave no
        room for a patch, does without it then: its places are only a beginning.
        """
        canvas, open_, barred = size.canvas, size.hole, size.barred
        hole = open_[: size.height]
        height, width = hole.shape
        touched = reached(hole)
        within = np.zeros_like(hole)
        within[HALF : height - HALF, HALF : width - HALF] = True
        usable = np.zeros_like(open_)
        usable[HALF : len(open_) - HALF, HALF : width - HALF] = True
        usable &= ~reached(open_)
        if barred is not None:
            allowed = usable & ~reached(barred)
            if last and usable.any() and not allowed.any():
                raise NothingToCopyError(
                    "The Sources areas leave too little to copy from. Make them larger or remove one"
                )
            usable = allowed if allowed.any() else usable
        if not usable.any():
            raise NothingToCopyError("Too little of the picture is left to fill from. Make the frame smaller")
        rows, columns = places(touched & within)
        number = np.full(hole.shape, -1, np.int32)
        number[rows, columns] = np.arange(len(rows))
        nowhere, free = np.zeros(len(rows), np.int32), np.zeros(len(rows), np.float32)
        depth = cv2.distanceTransform(hole.astype(np.uint8), cv2.DIST_L2, 3)[rows, columns]
        trust = (1.2 ** -np.minimum(depth, 60)).astype(np.float32)
        return cls(
            canvas=canvas,
            views=views,
            hole=hole,
            at=places(hole),
            usable=usable,
            number=number,
            rows=rows,
            columns=columns,
            from_row=nowhere,
            from_column=nowhere.copy(),
            cost=free,
            trust=trust,
            guide=np.zeros((len(rows), 3), np.float32),
            detail=NOTHING,
            wanted=free,
            rarity=NOTHING,
        )

    def want_detail(self) -> None:
        """Let patches come from places with no less detail than there is around the hole: of two that are
        about as alike, the plainer one would always win."""
        detail, wanted = details(self.image, self.hole, self.rows, self.columns)
        # A view is as it is: along what runs away there is less and more detail by turns.
        self.detail = np.full(self.usable.shape, np.inf, np.float32)
        self.detail[: len(self.hole)] = detail * DETAIL
        self.wanted = wanted * DETAIL

    def place(self, from_row: NDArray[np.int64], from_column: NDArray[np.int64]) -> None:
        """Let the patches come from there; what is no usable place becomes the nearest that is.

        A random one instead would leave fragments: the first guess would then agree with itself.
        """
        row = np.clip(from_row, HALF, self.usable.shape[0] - HALF - 1)
        column = np.clip(from_column, HALF, self.usable.shape[1] - HALF - 1)
        wrong = ~self.usable[row, column]
        if wrong.any():
            row[wrong], column[wrong] = nearest_usable(self.usable, row[wrong], column[wrong])
        self.from_row, self.from_column = row.astype(np.int32), column.astype(np.int32)

    def agree(self, at: tuple[Indices, Indices], softness: float, spread: float) -> Values:
        """The colours (n, 3) at these pixels, as the patches that cover them agree."""
        out = np.zeros((len(at[0]), 3), np.float32)
        places = (self.number, self.from_row, self.from_column, self.cost)
        vote(self.canvas, *at, *places, self.trust, np.float32(softness), np.float32(spread), out)
        return out

    def guess(self) -> None:
        """The colours of the hole run smoothly between those on its rim."""
        rim = places(rim_of(self.hole))
        self.image[self.at] = membrane(self.hole.shape, self.at, rim, self.image[rim])

    def copy_middles(self) -> None:
        """The colour of each pixel of the hole is that of the place its own patch comes from."""
        has = self.number[self.at] >= 0
        self.copy_to(has)
        rest = self.at[0][~has], self.at[1][~has]
        self.image[rest] = self.agree(rest, 1.0, 1.5)

    def copy_to(self, chosen: Mask) -> None:
        """The same for the pixels of the hole that are chosen (n,); each must have a patch of its own."""
        to = self.at[0][chosen], self.at[1][chosen]
        own = self.number[to]
        self.image[to] = self.canvas[self.from_row[own], self.from_column[own]]

    def sources(self) -> Mask:
        """Every pixel (h, w) that a pixel of the hole may have been copied from, as the places stand."""
        middles = np.zeros_like(self.hole)
        middles[self.views.origins(self.from_row, self.from_column)] = True
        return reached(middles)

    @property
    def usual_cost(self) -> float:
        """What a patch usually costs: twice the upper quartile."""
        return max(2.0 * float(np.percentile(self.cost[:: max(1, len(self.cost) // 200_000)], 75)), 1.0)


def details(image: Values, hole: Mask, rows: Indices, columns: Indices) -> tuple[Values, Values]:
    """How much detail there is about every known pixel (h, w), and how much there is to be about the patches
    with these middles (n,): as much as at the rim, running smoothly between."""
    grey = image.mean(axis=2)
    slopes = np.hypot(
        cv2.Sobel(grey, cv2.CV_32F, 1, 0, scale=0.125), cv2.Sobel(grey, cv2.CV_32F, 0, 1, scale=0.125)
    )
    # A slope into the hole is not the picture's.
    known = (cv2.dilate(hole.astype(np.uint8), np.ones((3, 3), np.uint8)) == 0).astype(np.float32)
    slopes *= known
    detail = np.asarray(cv2.blur(slopes, (PATCH, PATCH)), np.float32)
    wide = cv2.GaussianBlur(slopes, (0, 0), AROUND) / np.maximum(
        cv2.GaussianBlur(known, (0, 0), AROUND), 1e-3
    )
    at, rim = places(hole), places(rim_of(hole))
    field = np.asarray(wide, np.float32)
    field[at] = membrane(hole.shape, at, rim, np.repeat(field[rim][:, None], 3, axis=1))[:, 0]
    return detail, field[rows, columns]


@dataclass(frozen=True)
class Size:
    """One size of the canvas: its pixels, the hole, and what must not be copied; ``height``: the rows that
    are the picture's own."""

    canvas: Values
    hole: Mask
    barred: Mask | None
    height: int


def halvings_of(hole: Mask) -> int:
    """How often a picture with this hole is halved until a fill can be begun quickly."""
    count = 0
    while hole.size / 4**count > REPEATED_PIXELS:
        count += 1
    step = 2 ** max(count - 1, 0)
    thickness = step * thickness_of(np.ascontiguousarray(hole[::step, ::step]))
    while count and (thickness / 2**count < THINNEST or min(hole.shape) / 2**count < SMALLEST_SIDE):
        count -= 1
    return count


def levels_of(hole: Mask) -> int:
    """How often a picture with this hole is halved."""
    thickness, side, count = thickness_of(hole), min(hole.shape), 0
    while thickness / 2**count >= THINNEST and -(-side // 2**count) >= SMALLEST_SIDE:
        count += 1
    return count


def halved(whole: Size, count: int) -> list[Size]:
    """A picture and its hole in so many halves, fullest first; what is known alone tells a coarser pixel."""
    levels = [whole]
    for _ in range(count):
        last = levels[-1]
        image, mask, barred = last.canvas, last.hole, last.barred
        size = (-(-mask.shape[1] // 2), -(-mask.shape[0] // 2))
        known = (~mask).astype(np.float32)
        share = cv2.resize(known, size, interpolation=cv2.INTER_AREA)
        sums = cv2.resize(image * known[..., None], size, interpolation=cv2.INTER_AREA)
        coarser = np.asarray(sums / np.maximum(share, 1e-6)[..., None], np.float32)
        if barred is not None:
            barred = cv2.resize(barred.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0
        levels.append(Size(coarser, share < 0.5, barred, -(-last.height // 2)))
    return levels


def thickness_of(hole: Mask) -> float:
    """How far inside a hole its innermost pixel lies."""
    bordered = cv2.copyMakeBorder(hole.astype(np.uint8), 1, 1, 1, 1, cv2.BORDER_REPLICATE)
    return float(cv2.distanceTransform(bordered, cv2.DIST_L2, 3).max())


def places(mask: Mask) -> tuple[Indices, Indices]:
    """Rows and columns where a mask is set, as the kernels take them."""
    rows, columns = np.nonzero(mask)
    return rows.astype(np.int32), columns.astype(np.int32)


def reached(mask: Mask) -> Mask:
    """The middles of all patches that reach into a mask, or what patches with these middles cover."""
    return np.asarray(cv2.dilate(mask.astype(np.uint8), np.ones((PATCH, PATCH), np.uint8), borderValue=0) > 0)


def rim_of(hole: Mask) -> Mask:
    """Known pixels that touch the hole."""
    return (cv2.dilate(hole.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0) & ~hole
