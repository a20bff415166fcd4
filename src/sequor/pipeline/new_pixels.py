"""What is made up in a frame: its corners, and what is touched up.

A take is made for a fingerprint: photo, warp and frame, however they were come by, and how it is to be made.
Under another one it is stale.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from typing import Any

import numpy as np

from sequor.core.camera import Array
from sequor.core.fill import METHOD
from sequor.core.fill.areas import Area
from sequor.core.fill.receding import Receding
from sequor.core.rectangle import Rectangle
from sequor.core.references.registry import kind_of
from sequor.pipeline.frame import Crop
from sequor.pipeline.stage import UNSAID, Stage
from sequor.pipeline.warp import Bend
from sequor.recipe.model import Recipe
from sequor.recipe.model.edges import AreaPart

TOUCH_UP = "touch-up "
"""How the names of patches of touch-ups begin."""

DONORS = ("edges.donors.*.kind", "edges.donors.*.points", "edges.donors.*.radius")


class Recede(Stage[tuple[Receding, ...]]):
    """What runs away, in corrected pixels: where the receding lines of each group meet, and where they
    lie."""

    reads = tuple(f"references.*.{name}" for name in ("kind", "points", "active", "group"))
    after = (Bend,)

    def run(self, recipe: Recipe, *upstream: Any) -> tuple[Receding, ...]:
        warp = upstream[0].warp
        if not warp.straight:
            return ()
        groups: dict[str | None, list[Array]] = defaultdict(list)
        for one in recipe.references:
            if one.active and kind_of(one.kind).grouped:
                groups[one.group].append(warp.to_corrected(np.array([one.points[0], one.points[-1]])))
        found = [Receding.of(np.array(lines)) for lines in groups.values() if len(lines) > 1]
        return tuple(one for one in found if one is not None)

    def settles(self, result: tuple[Receding, ...]) -> Any:
        return [(one.point, one.sectors) for one in result] or UNSAID


class Ground(Stage[Rectangle]):
    """What all new pixels of a frame lie in: the photo under its warp, and the frame; and where things run
    away to."""

    reads = ("photo.sha256", "photo.quarter_turns", "develop")
    after = (Bend, Crop, Recede)
    version = METHOD

    def run(self, recipe: Recipe, *upstream: Any) -> Rectangle:
        frame: Rectangle = upstream[1].frame
        return frame


class Donate(Stage[tuple[tuple[bool, Area], ...]]):
    """Where new pixels may come from: areas in the frame's pixels, and of each whether only from there."""

    reads = DONORS
    after = (Ground,)

    def run(self, recipe: Recipe, *upstream: Any) -> tuple[tuple[bool, Area], ...]:
        donors = recipe.edges.donors
        return tuple((one.kind == "from here", in_frame(one, upstream[0])) for one in donors)


@dataclass(frozen=True)
class Filling:
    """How empty corners are filled: in so many strips, or, with a hint, by the painter."""

    strips: int
    hint: str | None


class Fill(Stage[Filling]):
    """The filling of corners, whatever its seed."""

    reads = ("edges.strips", "edges.hint", *DONORS)
    after = (Ground,)

    def ignores(self, recipe: Recipe) -> tuple[str, ...]:
        # A painter does not copy.
        return () if recipe.edges.hint is None else DONORS

    def run(self, recipe: Recipe, *upstream: Any) -> Filling:
        return Filling(recipe.edges.strips, recipe.edges.hint)


def in_frame(part: AreaPart, frame: Rectangle) -> Area:
    """An area of the recipe in the frame's pixels."""
    return Area(tuple(part.points), part.radius).moved(-frame.x, -frame.y)


def patch_name(touch_up: str) -> str:
    """What the patch of a touch-up is called."""
    return f"{TOUCH_UP}{touch_up}"
