"""A wide empty area filled in strips, from the picture outwards: each is filled from all before it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from sequor.core.fill.areas import Box, box_of
from sequor.core.fill.patchmatch import Completion
from sequor.core.fill.receding import Receding
from sequor.core.raster.pixels import Picture

Mask = NDArray[np.bool_]


def boxes(hole: Mask, strips: int) -> list[Box]:
    """The boxes [x, y, width, height] that grow from what is known to all of the picture."""
    height, width = hole.shape
    known = box_of(~hole)
    if known is None:
        return [(0, 0, width, height)]
    x, y, wide, high = known
    grown: list[Box] = []
    for step in range(1, strips + 1):
        share = step / strips
        left, top = round(x * (1 - share)), round(y * (1 - share))
        right = round(x + wide + (width - x - wide) * share)
        bottom = round(y + high + (height - y - high) * share)
        grown.append((left, top, right - left, bottom - top))
    return grown


def fill_in_strips(
    picture: Picture,
    hole: Mask,
    strips: int,
    seed: int,
    barred: Mask | None,
    progress: Callable[[float], None],
    recedes: Sequence[Receding] = (),
) -> Picture:
    """The picture (h, w, 3) with its hole filled strip by strip; what ``recedes`` has its scale.
    Raises NothingToCopyError."""
    out, left = picture.copy(), hole.copy()
    for step, (x, y, wide, high) in enumerate(boxes(hole, strips)):
        place = np.s_[y : y + high, x : x + wide]
        if not left[place].any():
            continue

        def told(share: float, done: int = step) -> None:
            progress((done + share) / strips)

        bar = None if barred is None else np.ascontiguousarray(barred[place])
        part = np.ascontiguousarray(out[place])
        own = [one.moved(-x, -y) for one in recedes]
        completion = Completion.of(part, np.ascontiguousarray(left[place]), bar, own)
        colours = completion.take(seed, told)
        part[completion.at] = colours
        out[place] = part
        left[place] = False
    return out
