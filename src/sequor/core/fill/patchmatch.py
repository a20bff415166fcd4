"""Completion: a hole in a picture filled from its surroundings, coarse to fine.

At every level each patch that touches the hole looks for one like it in the known picture, and the patches
agree on the hole's colours (Wexler, Shechtman & Irani 2007). Up to about a megapixel that is repeated until
it rests; above, the places found are carried up and only made better nearby, so that the finest level copies
patches of the picture as it is.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from sequor.core.fill.beginnings import begin
from sequor.core.fill.blend import Mask, membrane
from sequor.core.fill.harmony import Harmony
from sequor.core.fill.kernels import HALF, PATCH, search
from sequor.core.fill.levels import (
    REPEATED_PIXELS,
    Indices,
    Level,
    Size,
    halved,
    halvings_of,
    levels_of,
    places,
    rim_of,
)
from sequor.core.fill.receding import Canvas, Receding
from sequor.core.fill.structure_lines import guided, guides
from sequor.core.fill.things import mark_things
from sequor.core.fill.views import canvas_of
from sequor.core.raster.pixels import Picture, in_codes, values_of

ROUNDS_AT_LEAST = 2

ROUNDS_AT_MOST = 12


@dataclass(frozen=True)
class Style:
    """How a take looks for its places. ``nearness``: how much one costs for lying far away, the largest
    single gain in trials. ``things``: how much it costs for being part of a thing that is there once."""

    nearness: float
    things: float


STYLES = (Style(2.0, 1.0), Style(0.6, 4.0), Style(7.0, 0.0))
"""Takes go through these in turn, so that three of them differ where there is a choice: the first weighs, the
second copies from anywhere and no thing twice, the third goes on with what is beside the hole."""

SHARP = 0.05
"""Of the usual cost of a patch: how much dearer ones still have a say in the end."""

MIDDLE = 0.6
"""In the end a pixel is told by the patches whose middles lie so near, in pixels: nothing is blurred."""

WIDE = 6.0
"""Pixels on each side, at about a megapixel, that a straight thing has a say in."""

MOST_LIFT = 40.0
"""Code values by which a seam is levelled at most."""

Rough = Callable[[Picture, int], None]
"""Called once with the picture filled at about a megapixel, and by how much it is reduced."""


class Completion:
    """A picture (h, w, 3) of 8 or 16 bits with a hole (h, w), made coarser once for all takes of it.

    It may be a larger one reduced by 2 to the power of ``halvings``, which ``whole`` brings with its hole
    when its turn has come: a take begins before there is one. No pixel of ``barred`` (h, w) is copied. What
    ``recedes``, in its pixels, is looked for along its lines with its scale.
    Raises NothingToCopyError.
    """

    def __init__(
        self,
        picture: Picture,
        hole: Mask,
        halvings: int = 0,
        whole: Callable[[], tuple[Picture, Mask, Mask | None]] | None = None,
        barred: Mask | None = None,
        recedes: Sequence[Receding] = (),
    ) -> None:
        self._like = picture[:0]
        count = levels_of(hole)
        self._canvas = canvas_of(picture, hole, recedes, count)
        sizes = halved(_laid(self._canvas, picture, hole, barred, 1), count)
        self.levels = [
            Level.of(size, self._canvas.at(0.5**step), not halvings and not step)
            for step, size in reversed(list(enumerate(sizes)))
        ]
        """Coarsest first."""
        self._halvings, self._whole = halvings, whole
        small = [level.hole.size <= REPEATED_PIXELS for level in self.levels]
        self._told_by = max(sum(small) - 1, 0)
        self._last_repeated = max(sum(small), min(2, len(small))) - 1
        seen = self.levels[self._told_by]
        seen.guess()
        self._lines = guides(seen.image, seen.hole)
        repeated = [level for level, is_small in zip(self.levels, small, strict=True) if is_small]
        mark_things(repeated)
        for level in repeated:
            level.want_detail()
        for index, level in enumerate(self.levels):
            self._guide(index, level)

    @classmethod
    def of(
        cls, picture: Picture, hole: Mask, barred: Mask | None = None, recedes: Sequence[Receding] = ()
    ) -> Completion:
        """The same of a picture that is there already."""
        halvings = halvings_of(hole)
        small = halved(Size(values_of(picture), hole, barred, len(hole)), halvings)[-1]
        return cls(
            in_codes(small.canvas, picture),
            small.hole,
            halvings,
            lambda: (picture, hole, barred),
            small.barred,
            [one.scaled(0.5**halvings) for one in recedes],
        )

    def _guide(self, index: int, level: Level) -> None:
        """Tell the patches of a level which straight things run on through them."""
        scale = 2.0 ** (index - self._told_by)
        wide = max(HALF + 1.0, WIDE * scale)
        level.guide = guided(self._lines, scale, level.rows, level.columns, wide)

    def _grow(self) -> None:
        """Add the levels of the whole picture."""
        assert self._whole is not None
        finer = halved(_laid(self._canvas, *self._whole(), 2**self._halvings), self._halvings - 1)
        for step, size in reversed(list(enumerate(finer))):
            level = Level.of(size, self._canvas.at(2.0 ** (self._halvings - step)), not step)
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
        """The colours (n, 3) of the hole's pixels, as deep as the picture. The same seed gives the same.

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

            begin(level, self.levels[step - 1] if step else None, seed)
            _improve(level, finer, step < 2, seed, style, told)
            if rough and step == self._last_repeated:
                rough(in_codes(level.image, self._like), 2**finer)
        _level_seams(level)
        return in_codes(level.image[level.at], self._like)


def _laid(canvas: Canvas, picture: Picture, hole: Mask, barred: Mask | None, factor: int) -> Size:
    return Size(*canvas.painted(picture, hole, barred, factor), len(hole))


def fill(
    picture: Picture,
    hole: Mask,
    seed: int = 1,
    barred: Mask | None = None,
    recedes: Sequence[Receding] = (),
) -> Picture:
    """The picture (h, w, 3) of 8 or 16 bits with its hole (h, w) filled; every other pixel as it was.

    The same seed gives the same pixels. No pixel of ``barred`` is copied. What ``recedes``, in its
    pixels, is looked for along its lines with its scale. Raises NothingToCopyError.
    """
    out = picture.copy()
    if hole.any():
        whole = Completion.of(picture, hole, barred, recedes)
        colours = whole.take(seed)
        out[whole.at] = colours
    return out


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
        level.detail,
        level.wanted,
        level.rarity * np.float32(style.things),
        level.views.table,
    )
    for turn in range(rounds):
        reach = (max(size) if coarse else max(size) // 4) if repeated else 4
        turns = 1 if not repeated else 3 if height > 1 else 2
        search(level.canvas, level.usable, *lists, turns, reach, weight, seed + turn)
        told((turn + 0.6) / rounds)
        last = turn == rounds - 1
        softness = level.usual_cost * (SHARP if last else 0.5)
        level.image[level.at] = level.agree(level.at, softness, MIDDLE if last and not height else 0.0)
        told((turn + 1) / rounds)


def _level_seams(level: Level) -> None:
    """Lift or lower what was filled so that it meets what it borders on, part by part, after its pieces were
    made to meet."""
    usual = level.usual_cost * SHARP
    harmony = Harmony(level)
    level.image[level.at] += harmony.at(*level.at)
    _, labels, boxes, _ = cv2.connectedComponentsWithStats(level.hole.astype(np.uint8), connectivity=8)
    for label, (left, top, wide, high, _) in enumerate(boxes[1:], 1):
        # With what it borders on.
        first, begin = max(0, top - 1), max(0, left - 1)
        part = np.s_[first : top + high + 1, begin : left + wide + 1]
        inside = np.asarray(labels[part] == label)
        rim = places(rim_of(inside) & ~level.hole[part])
        at = places(inside)
        here = rim[0] + np.int32(first), rim[1] + np.int32(begin)
        told = level.agree(here, usual, MIDDLE)
        difference = np.clip(level.image[part][rim] - told - harmony.at(*here), -MOST_LIFT, MOST_LIFT)
        difference[~np.any(told != 0, axis=1)] = 0
        level.image[part][at] += membrane(inside.shape, at, rim, difference)
