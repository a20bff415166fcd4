"""What a frame cuts of the things that were marked or drawn."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from sequor.core.camera import Array
from sequor.core.rectangle import Rectangle
from sequor.core.references.base import PLUMB
from sequor.core.references.registry import kind_of
from sequor.core.warp.base import Warp
from sequor.pipeline.frame import WHOLE, subject_on
from sequor.recipe.model import Recipe

AT_BORDER = 0.02
"""A share of the photo's shorter side: a line that ends so near its border may well run on beyond it."""

SLIVER = 0.05
"""A share of a thing's length that may be cut before that is worth a word."""

Where = Literal["subject", "all", "top", "foot"]


@dataclass(frozen=True)
class CutThing:
    """Something that a frame cuts: the subject mark, or a reference by its ``number`` (from 1), and where."""

    where: Where
    number: int | None = None


def cut_things(recipe: Recipe, warp: Warp, frame: Rectangle) -> tuple[CutThing, ...]:
    """The subject mark where it is not wholly inside a frame in corrected pixels; rectangles, verticals.

    Only ends that lie well inside the photo count: what runs out of it anyway has no foot and no top there.
    """
    found: list[CutThing] = []
    if recipe.frame.subject is not None:
        where = subject_on(warp, recipe.frame.subject)
        if where is None or not frame.contains(where, WHOLE):
            found.append(CutThing("subject"))
    for number, part in enumerate(recipe.references, 1):
        kind = kind_of(part.kind)
        if not part.active or PLUMB not in kind.directions:
            continue
        points = np.array(part.points)
        ends = points if kind.joined else points[[0, -1]]
        ends = ends[np.argsort(ends[:, 1], kind="stable")]
        lost = _within(ends, recipe) & _outside(warp.to_corrected(ends), frame)
        if kind.joined and lost.any():
            found.append(CutThing("all", number))
        elif lost.any():
            found.append(CutThing("all" if lost.all() else "top" if lost[0] else "foot", number))
    return tuple(found)


def _within(points: Array, recipe: Recipe) -> npt.NDArray[np.bool_]:
    photo = recipe.photo
    margin = AT_BORDER * min(photo.width, photo.height)
    near = np.minimum(points, np.array([photo.width, photo.height]) - points).min(axis=1)
    return np.asarray(near > margin, np.bool_)


def _outside(points: Array, frame: Rectangle) -> npt.NDArray[np.bool_]:
    """Which ends lie so far outside that more than a sliver of what they belong to is lost."""
    if not np.all(np.isfinite(points)):
        return np.asarray(~np.isfinite(points).all(axis=1), np.bool_)
    beyond = np.maximum(
        np.array([frame.x, frame.y]) - points, points - np.array([frame.right, frame.bottom])
    ).max(axis=1)
    return np.asarray(beyond > max(WHOLE, SLIVER * float(np.ptp(points, axis=0).max())), np.bool_)
