"""From which angle on reshaping a picture would hurt."""

from __future__ import annotations

from typing import Any

from sequor.core.camera import Attitude, intrinsics
from sequor.core.estimation.unknowns import ANGLES
from sequor.core.warp.homography import warp_of
from sequor.pipeline.edges.reshape import HURTS
from sequor.pipeline.solve import Numbers, Settle
from sequor.pipeline.stage import Stage
from sequor.pipeline.warp import Follow, Level, guides_of, reshaped_along
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError

NEARER = 4
NEAR = 0.03
"""Steps by which the angle is found, at most; fewer when one moves it by no more than a share of it."""

UNTURNED_DEG = 0.05
CANNOT = 10.0
"""Stands for the stretch of a picture that cannot be reshaped."""


class HurtsFrom(Stage[float | None]):
    """The angle in degrees from which on reshaping would stretch a part by more than ``HURTS``; None when
    nothing is taken out. Of several angles the largest is meant, the others growing with it."""

    reads = (*Level.reads, *Follow.reads)
    after = (Settle,)

    def ignores(self, recipe: Recipe) -> tuple[str, ...]:
        return ("edges.mode",)

    def run(self, recipe: Recipe, *upstream: Any) -> float | None:
        numbers: Numbers = upstream[0]
        correction, guides = recipe.correction, guides_of(recipe)
        camera = intrinsics(recipe.photo.width, recipe.photo.height, corrected_focal_px=numbers.focal_px)
        angles = {name: correction.taken_out(name, getattr(numbers.attitude, name)) for name in ANGLES}
        largest = max(abs(angle) for angle in angles.values())
        if largest < UNTURNED_DEG:
            return None

        def stretched(share: float) -> float:
            attitude = Attitude(**{name: share * angle for name, angle in angles.items()})
            try:
                warp = warp_of(camera, attitude, Attitude(), correction.proportion, numbers.lens)
                return reshaped_along(warp, guides, correction.proportion).greatest - 1
            except (RecipeError, ValueError):
                return CANNOT

        # It grows nearly in proportion to the angle: from a small one the first guess is a good one.
        share = 2.0 / largest
        for _ in range(NEARER):
            nearer = min(max(HURTS / max(stretched(share), 1e-4), 0.2), 4.0)
            share *= nearer
            if abs(nearer - 1) < NEAR:
                break
        return share * largest
