"""Completion: a hole in a picture filled from its surroundings, coarse to fine.

At every level each patch that touches the hole looks for one like it in the known picture, and the patches
agree on the hole's colours (Wexler, Shechtman & Irani 2007). Up to about a megapixel that is repeated until
it rests; above, the places found are carried up and only made better nearby, so that the finest level copies
patches of the picture as it is.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.fill.blend import Mask, Values, membrane, nearest_usable
from sequor.core.fill.kernels import HALF, PATCH, search, vote
from sequor.core.fill.structure_lines import guided, guides
from sequor.core.raster.pixels import Picture

Indices = NDArray[np.int32]

REPEATED_PIXELS = 1_300_000
"""Levels of at most so many pixels are repeated until they rest, and the first two: a thin hole has no
others."""

THINNEST = 4.0
"""Pixels of thickness under which a hole is not made coarser,"""
SMALLEST_SIDE = 64
"""nor a picture."""

ROUNDS_AT_LEAST = 2
ROUNDS_AT_MOST = 12


@dataclass(frozen=True)
class Style:
    """How a take looks for its places. ``nearness``: how much one costs for lying far away, the largest
    single gain in trials."""

    nearness: float


STYLES = (Style(2.0), Style(0.6), Style(7.0))
"""Takes go through these in turn, so that three of them differ where there is a choice."""

SHARP = 0.05
"""Of the usual cost of a patch: how much dearer ones still have a say in the end."""

MIDDLE = 0.6
"""In the end a pixel is told by the patches whose middles lie so near, in pixels: nothing is blurred."""

BESIDE = [(r * down, r * across) for r in (1, 2, 3) for down in (-1, 0, 1) for across in (-1, 0, 1)]

WIDE = 6.0
"""Pixels on each side, at about a megapixel, that a straight thing has a say in."""

NEXT = 8
"""Pixels along a straight thing within which the place is sought that lies best on its line."""

MOST_LIFT = 40.0
"""Code values by which a seam is levelled at most."""


class NothingToCopyError(ValueError):
    """The picture has no room for a single known patch."""


@dataclass
class Level:
    """One size of the picture, its hole (``at``: the pixels of it), and for every patch that touches the hole
    where it comes from."""

    image: Values
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

    @classmethod
    def of(cls, size: Size, last: bool = True) -> Level:
        """A level whose patches have no place yet. Raises NothingToCopyError.

        On the ``last`` no pixel of what is barred is copied; a coarser one, where a barred area may leave no
        room for a patch, does without it then: its places are only a beginning.
        """
        image, hole, barred = size
        height, width = hole.shape
        touched = _reached(hole)
        within = np.zeros_like(hole)
        within[HALF : height - HALF, HALF : width - HALF] = True
        usable = within & ~touched
        if barred is not None:
            allowed = usable & ~_reached(barred)
            if last and usable.any() and not allowed.any():
                raise NothingToCopyError(
                    "the areas that new pixels may come from leave no room; make them larger, or remove one"
                )
            usable = allowed if allowed.any() else usable
        if not usable.any():
            raise NothingToCopyError(
                "too little of the picture is left to fill the rest from; make the frame smaller"
            )
        rows, columns = _places(touched & within)
        number = np.full(hole.shape, -1, np.int32)
        number[rows, columns] = np.arange(len(rows))
        nowhere, free = np.zeros(len(rows), np.int32), np.zeros(len(rows), np.float32)
        depth = cv2.distanceTransform(hole.astype(np.uint8), cv2.DIST_L2, 3)[rows, columns]
        trust = (1.2 ** -np.minimum(depth, 60)).astype(np.float32)
        return cls(
            image=image,
            hole=hole,
            at=_places(hole),
            usable=usable,
            number=number,
            rows=rows,
            columns=columns,
            from_row=nowhere,
            from_column=nowhere.copy(),
            cost=free,
            trust=trust,
            guide=np.zeros((len(rows), 3), np.float32),
        )

    def place(self, from_row: NDArray[np.int64], from_column: NDArray[np.int64]) -> None:
        """Let the patches come from there; what is no usable place becomes the nearest that is.

        A random one instead would leave fragments: the first guess would then agree with itself.
        """
        row = np.clip(from_row, HALF, self.hole.shape[0] - HALF - 1)
        column = np.clip(from_column, HALF, self.hole.shape[1] - HALF - 1)
        wrong = ~self.usable[row, column]
        if wrong.any():
            row[wrong], column[wrong] = nearest_usable(self.usable, row[wrong], column[wrong])
        self.from_row, self.from_column = row.astype(np.int32), column.astype(np.int32)

    def agree(self, at: tuple[Indices, Indices], softness: float, spread: float) -> Values:
        """The colours (n, 3) at these pixels, as the patches that cover them agree."""
        out = np.zeros((len(at[0]), 3), np.float32)
        places = (self.number, self.from_row, self.from_column, self.cost)
        vote(self.image, *at, *places, self.trust, np.float32(softness), np.float32(spread), out)
        return out

    def guess(self) -> None:
        """The colours of the hole run smoothly between those on its rim."""
        rim = _places(_rim(self.hole))
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
        self.image[to] = self.image[self.from_row[own], self.from_column[own]]

    def sources(self) -> Mask:
        """Every pixel (h, w) that a pixel of the hole may have been copied from, as the places stand."""
        middles = np.zeros_like(self.hole)
        middles[self.from_row, self.from_column] = True
        return _reached(middles)

    @property
    def usual_cost(self) -> float:
        """What a patch usually costs: twice the upper quartile."""
        return max(2.0 * float(np.percentile(self.cost[:: max(1, len(self.cost) // 200_000)], 75)), 1.0)


Size = tuple[Values, Mask, Mask | None]
"""One size of the picture: its pixels, its hole, and what must not be copied."""

Rough = Callable[[Picture, int], None]
"""Called once with the picture filled at about a megapixel, and by how much it is reduced."""


class Completion:
    """A picture (h, w, 3) uint8 with a hole (h, w), made coarser once for all takes of it.

    It may be a larger one reduced by 2 to the power of ``halvings``, which ``whole`` brings with its hole
    when its turn has come: a take begins before there is one. No pixel of ``barred`` (h, w) is copied.
    Raises NothingToCopyError.
    """

    def __init__(
        self,
        picture: Picture,
        hole: Mask,
        halvings: int = 0,
        whole: Callable[[], tuple[Picture, Mask, Mask | None]] | None = None,
        barred: Mask | None = None,
    ) -> None:
        sizes = _pyramid(picture, hole, barred)
        self.levels = [Level.of(size, not halvings and size is sizes[0]) for size in reversed(sizes)]
        """Coarsest first."""
        self._halvings, self._whole = halvings, whole
        small = [level.hole.size <= REPEATED_PIXELS for level in self.levels]
        self._told_by = max(sum(small) - 1, 0)
        self._last_repeated = max(sum(small), min(2, len(small))) - 1
        seen = self.levels[self._told_by]
        seen.guess()
        self._lines = guides(seen.image, seen.hole)
        for index, level in enumerate(self.levels):
            self._guide(index, level)

    @classmethod
    def of(cls, picture: Picture, hole: Mask, barred: Mask | None = None) -> Completion:
        """The same of a picture that is there already."""
        halvings = halvings_of(hole)
        image, mask, no_source = _halved((picture.astype(np.float32), hole, barred), halvings)[-1]
        return cls(_bytes(image), mask, halvings, lambda: (picture, hole, barred), no_source)

    def _guide(self, index: int, level: Level) -> None:
        """Tell the patches of a level which straight things run on through them."""
        scale = 2.0 ** (index - self._told_by)
        wide = max(HALF + 1.0, WIDE * scale)
        level.guide = guided(self._lines, scale, level.rows, level.columns, wide)

    def _grow(self) -> None:
        """Add the levels of the whole picture."""
        assert self._whole is not None
        picture, hole, barred = self._whole()
        finer = _halved((picture.astype(np.float32), hole, barred), self._halvings - 1)
        for size in reversed(finer):
            level = Level.of(size, size is finer[0])
            self._guide(len(self.levels), level)
            self.levels.append(level)
        self._halvings, self._whole = 0, None

    @property
    def at(self) -> tuple[Indices, Indices]:
        """Rows and columns of the pixels of the hole."""
        return self.levels[-1].at

    def take(
        self,
        seed: int = 1,
        progress: Callable[[float], None] | None = None,
        rough: Rough | None = None,
    ) -> Picture:
        """The colours (n, 3) uint8 of the hole's pixels. The same seed gives the same.

        ``progress`` hears the share done, often; what it raises ends the take.
        """
        style = STYLES[(seed - 1) % len(STYLES)]
        last = len(self.levels) - 1 + self._halvings
        for step in range(last + 1):
            if step == len(self.levels):
                self._grow()
            level, finer = self.levels[step], last - step

            def told(share: float, finer: int = finer) -> None:
                # Each level takes about four times as long as the coarser one.
                if progress:
                    progress(0.85 * 0.25**finer * (0.25 + 0.75 * share))

            _begin(level, self.levels[step - 1] if step else None, seed)
            _improve(level, finer, step < 2, seed, style, told)
            if rough and step == self._last_repeated:
                rough(_bytes(level.image), 2**finer)
        _level_seams(level)
        return _bytes(level.image[level.at])


def halvings_of(hole: Mask) -> int:
    """How often a picture with this hole is halved until a fill can be begun quickly."""
    count = 0
    while hole.size / 4**count > REPEATED_PIXELS:
        count += 1
    step = 2 ** max(count - 1, 0)
    thickness = step * _thickness(np.ascontiguousarray(hole[::step, ::step]))
    while count and (thickness / 2**count < THINNEST or min(hole.shape) / 2**count < SMALLEST_SIDE):
        count -= 1
    return count


def fill(picture: Picture, hole: Mask, seed: int = 1, barred: Mask | None = None) -> Picture:
    """The picture (h, w, 3) uint8 with its hole (h, w) filled; every other pixel as it was.

    The same seed gives the same pixels. No pixel of ``barred`` is copied. Raises NothingToCopyError.
    """
    out = picture.copy()
    if hole.any():
        whole = Completion.of(picture, hole, barred)
        colours = whole.take(seed)
        out[whole.at] = colours
    return out


def _bytes(values: Values) -> Picture:
    return np.asarray(np.clip(values + 0.5, 0, 255), np.uint8)


def _pyramid(picture: Picture, hole: Mask, barred: Mask | None) -> list[Size]:
    """The picture and its hole in halves, fullest first."""
    thickness, side, count = _thickness(hole), min(hole.shape), 0
    while thickness / 2**count >= THINNEST and -(-side // 2**count) >= SMALLEST_SIDE:
        count += 1
    return _halved((picture.astype(np.float32), hole, barred), count)


def _halved(whole: Size, count: int) -> list[Size]:
    """A picture and its hole in so many halves, fullest first; what is known alone tells a coarser pixel."""
    levels = [whole]
    for _ in range(count):
        image, mask, barred = levels[-1]
        size = (-(-mask.shape[1] // 2), -(-mask.shape[0] // 2))
        known = (~mask).astype(np.float32)
        share = cv2.resize(known, size, interpolation=cv2.INTER_AREA)
        sums = cv2.resize(image * known[..., None], size, interpolation=cv2.INTER_AREA)
        coarser = np.asarray(sums / np.maximum(share, 1e-6)[..., None], np.float32)
        if barred is not None:
            barred = cv2.resize(barred.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0
        levels.append((coarser, share < 0.5, barred))
    return levels


def _thickness(hole: Mask) -> float:
    """How far inside a hole its innermost pixel lies."""
    bordered = cv2.copyMakeBorder(hole.astype(np.uint8), 1, 1, 1, 1, cv2.BORDER_REPLICATE)
    return float(cv2.distanceTransform(bordered, cv2.DIST_L2, 3).max())


def _begin(level: Level, coarser: Level | None, seed: int) -> None:
    """First places and colours: from the coarser level, or at random over a smooth guess."""
    level.cost.fill(0)
    if coarser is None:
        level.guess()
        rows, columns = np.nonzero(level.usable)
        chosen = np.random.default_rng(seed).integers(0, len(rows), len(level.rows))
        level.place(rows[chosen], columns[chosen])
        _begin_along(level)
        return
    row = np.clip(level.rows // 2, HALF, coarser.hole.shape[0] - HALF - 1)
    column = np.clip(level.columns // 2, HALF, coarser.hole.shape[1] - HALF - 1)
    parent = coarser.number[row, column]
    # At the rim a patch may have no parent just there: the next one has the same way to go.
    for beside_row, beside_column in BESIDE:
        missing = parent < 0
        if not missing.any():
            break
        r = np.clip(row[missing] + beside_row, 0, coarser.hole.shape[0] - 1)
        c = np.clip(column[missing] + beside_column, 0, coarser.hole.shape[1] - 1)
        parent[missing] = coarser.number[r, c]
    parent = np.maximum(parent, 0)
    down = 2 * (coarser.from_row[parent].astype(np.int64) - coarser.rows[parent])
    across = 2 * (coarser.from_column[parent].astype(np.int64) - coarser.columns[parent])
    level.guide[coarser.guide[parent, 2] == 0] = 0
    _straighten(level.guide, down, across)
    level.place(level.rows + down, level.columns + across)
    level.copy_middles()


def _straighten(guide: Values, down: NDArray[np.int64], across: NDArray[np.int64]) -> None:
    """Move the places of patches on straight things onto their lines, in place: half a pixel beside it on a
    coarse level would be many on the finest."""
    on = np.nonzero(guide[:, 2] > 0)[0]
    dx, dy = guide[on, 0].astype(np.float64), guide[on, 1].astype(np.float64)
    ahead = across[on] * dx + down[on] * dy
    least = np.full(len(on), np.inf)
    best = down[on], across[on]
    for step in range(-NEXT, NEXT + 1):
        rows, columns = (
            np.round((ahead + step) * dy).astype(np.int64),
            np.round((ahead + step) * dx).astype(np.int64),
        )
        beside = np.abs(rows * dx - columns * dy) + 1e-3 * abs(step)
        nearer = beside < least
        least = np.where(nearer, beside, least)
        best = np.where(nearer, rows, best[0]), np.where(nearer, columns, best[1])
    down[on], across[on] = best


def _begin_along(level: Level) -> None:
    """Let patches on straight things come from where these were last seen, and show it."""
    on = np.nonzero(level.guide[:, 2] > 0)[0]
    row, column = level.rows[on].astype(np.float32), level.columns[on].astype(np.float32)
    for _ in range(max(level.hole.shape)):
        r, c = np.round(row).astype(np.int64), np.round(column).astype(np.int64)
        inside = (r >= 0) & (c >= 0) & (r < level.hole.shape[0]) & (c < level.hole.shape[1])
        there = inside.copy()
        there[inside] = level.usable[r[inside], c[inside]]
        level.from_row[on[there]], level.from_column[on[there]] = r[there], c[there]
        # What is nowhere to be seen is not followed.
        level.guide[on[~inside]] = 0
        on, row, column = on[inside & ~there], row[inside & ~there], column[inside & ~there]
        if not len(on):
            break
        row, column = row - level.guide[on, 1], column - level.guide[on, 0]
    own = level.number[level.at]
    level.copy_to((own >= 0) & (level.guide[own, 2] > 0))


def _improve(
    level: Level, height: int, coarse: bool, seed: int, style: Style, told: Callable[[float], None]
) -> None:
    """Search and agree in turn. ``height``: how many levels are finer; ``coarse``: one of the first."""
    size = level.hole.shape
    repeated = coarse or level.hole.size <= REPEATED_PIXELS
    weight = np.float32(style.nearness * PATCH**2 * 3 * 255**2 / float(size[0] ** 2 + size[1] ** 2) * 0.02)
    rounds = min(ROUNDS_AT_MOST, ROUNDS_AT_LEAST + 2 * height) if repeated else 1
    lists = (
        level.rows,
        level.columns,
        level.number,
        level.from_row,
        level.from_column,
        level.cost,
        level.guide,
    )
    for turn in range(rounds):
        reach = (max(size) if coarse else max(size) // 4) if repeated else 4
        turns = 1 if not repeated else 3 if height > 1 else 2
        search(level.image, level.usable, *lists, turns, reach, weight, seed + turn)
        told((turn + 0.6) / rounds)
        last = turn == rounds - 1
        softness = level.usual_cost * (SHARP if last else 0.5)
        level.image[level.at] = level.agree(level.at, softness, MIDDLE if last and not height else 0.0)
        told((turn + 1) / rounds)


def _places(mask: Mask) -> tuple[Indices, Indices]:
    """Rows and columns where a mask is set, as the kernels take them."""
    rows, columns = np.nonzero(mask)
    return rows.astype(np.int32), columns.astype(np.int32)


def _reached(mask: Mask) -> Mask:
    """The middles of all patches that reach into a mask, or what patches with these middles cover."""
    return np.asarray(cv2.dilate(mask.astype(np.uint8), np.ones((PATCH, PATCH), np.uint8), borderValue=0) > 0)


def _rim(hole: Mask) -> Mask:
    """Known pixels that touch the hole."""
    return (cv2.dilate(hole.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0) & ~hole


def _level_seams(level: Level) -> None:
    """Lift or lower what was filled so that it meets what it borders on, part by part."""
    usual = level.usual_cost * SHARP
    _, labels, boxes, _ = cv2.connectedComponentsWithStats(level.hole.astype(np.uint8), connectivity=8)
    for label, (left, top, wide, high, _) in enumerate(boxes[1:], 1):
        # With what it borders on.
        first, begin = max(0, top - 1), max(0, left - 1)
        part = np.s_[first : top + high + 1, begin : left + wide + 1]
        inside = np.asarray(labels[part] == label)
        rim = _places(_rim(inside) & ~level.hole[part])
        at = _places(inside)
        told = level.agree((rim[0] + np.int32(first), rim[1] + np.int32(begin)), usual, MIDDLE)
        difference = np.clip(level.image[part][rim] - told, -MOST_LIFT, MOST_LIFT)
        difference[~np.any(told != 0, axis=1)] = 0
        level.image[part][at] += membrane(inside.shape, at, rim, difference)
