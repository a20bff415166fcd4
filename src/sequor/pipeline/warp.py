"""From the numbers of a correction to the one warp."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from sequor.core.camera import Array, Attitude, Intrinsics, corrected_camera, intrinsics
from sequor.core.estimation.unknowns import ANGLES
from sequor.core.references.registry import kind_of
from sequor.core.warp.base import Warp
from sequor.core.warp.homography import PlainWarp, homography_warp, warp_of
from sequor.core.warp.reshape import CannotReshapeError, Marked, Reshaped, reshape
from sequor.core.warp.wide.make import Wide
from sequor.pipeline.edges.registry import mode_of
from sequor.pipeline.references import as_reference
from sequor.pipeline.solve import Numbers, Settle
from sequor.pipeline.stage import Stage
from sequor.pipeline.wide import WideGuides, made_wide, wide_guides_of
from sequor.recipe.model import Recipe
from sequor.recipe.model.correction import PerAngleShare, PerAngleSwitch
from sequor.recipe.parse import RecipeError


@dataclass(frozen=True)
class View:
    """A map that lines are looked at under, and the matrix (3, 3) of the camera that it makes."""

    warp: Warp
    camera: Array
    turn: Array
    """From camera axes to those of that camera (3, 3)."""


@dataclass(frozen=True)
class Views:
    """The photo as taken, the lens corrected; levelled; and the same with every amount 1 and on.
    ``focal_px``: of the camera; ``down`` (3,): what is plumb in the world, in the axes of the levelled
    picture."""

    taken: View
    levelled: View
    full: View
    focal_px: float
    down: Array


class Level(Stage[Views]):
    """The homography of the correction, behind the lens (docs/geometry.md: the correction)."""

    reads = (
        "photo.width",
        "photo.height",
        "correction.amount",
        "correction.on",
        "correction.by_hand",
        "correction.proportion",
    )
    after = (Settle,)

    def run(self, recipe: Recipe, *upstream: Any) -> Views:
        numbers: Numbers = upstream[0]
        size = recipe.photo.width, recipe.photo.height
        camera = intrinsics(*size, corrected_focal_px=numbers.focal_px)
        correction = recipe.correction
        try:
            levelled = self._view(recipe, camera, numbers, correction.amount, correction.on)
            full = self._view(recipe, camera, numbers, PerAngleShare(), PerAngleSwitch())
        except ValueError as error:
            raise RecipeError(f"{error}; take less of it out by hand", "correction.by_hand") from None
        taken = View(homography_warp(*size, np.eye(3), numbers.lens), camera.matrix, np.eye(3))
        left_in = _attitudes(recipe, numbers, correction.amount, correction.on)[1]
        return Views(taken, levelled, full, numbers.focal_px, left_in.rotation()[1])

    @staticmethod
    def _view(
        recipe: Recipe, camera: Intrinsics, numbers: Numbers, share: PerAngleShare, on: PerAngleSwitch
    ) -> View:
        attitudes = (camera, *_attitudes(recipe, numbers, share, on), recipe.correction.proportion)
        turn, matrix = corrected_camera(*attitudes)
        return View(warp_of(*attitudes, numbers.lens), matrix, turn)


def _attitudes(
    recipe: Recipe, numbers: Numbers, share: PerAngleShare, on: PerAngleSwitch
) -> tuple[Attitude, Attitude]:
    """What is taken out of a picture in all, and what of it is left in."""
    taken, left_in = {}, {}
    for angle in ANGLES:
        value = getattr(numbers.attitude, angle)
        taken[angle] = value + getattr(recipe.correction.by_hand, angle)
        left_in[angle] = (1 - getattr(share, angle) * getattr(on, angle)) * value
    return Attitude(**taken), Attitude(**left_in)


@dataclass(frozen=True)
class Guides:
    """What a reshape follows: lines that were laid, and segments (N, 2, 2) that were found."""

    marked: tuple[Marked, ...]
    segments: Array


def guides_of(recipe: Recipe) -> Guides:
    """What a reshape of the picture would follow."""
    marked = tuple(
        Marked(side, part.weight)
        for part in recipe.references
        if part.active and kind_of(part.kind).reshape_follows
        for side in as_reference(part).sides
    )
    return Guides(marked, np.array(recipe.edges.segments or []).reshape(-1, 2, 2))


class Follow(Stage[Guides | WideGuides | None]):
    """What a reshape or a wide view follows; None where the picture is no more than levelled."""

    reads = (
        "edges.mode",
        "edges.segments",
        "references.*.kind",
        "references.*.points",
        "references.*.weight",
        "references.*.active",
        "references.*.become",
        "lens.source",
        "lens.model",
        "view",
        "bend",
    )

    def run(self, recipe: Recipe, *upstream: Any) -> Guides | WideGuides | None:
        wide = wide_guides_of(recipe)
        if not mode_of(recipe.edges).moves_map:
            return wide
        if wide is not None:
            raise RecipeError(
                "Reshape works on a flat picture only. Keep the border a rectangle at Lens, "
                "or choose another way with the corners",
                "edges.mode",
            )
        return guides_of(recipe)

    def settles(self, result: Guides | WideGuides | None) -> Any:
        if result is None:
            return []
        if isinstance(result, WideGuides):
            return result.numbers()
        marked = [[one.weight, one.points.tolist()] for one in result.marked]
        return [marked, result.segments.tolist()]


@dataclass(frozen=True)
class Warped:
    """The warp of the picture, what a reshape does to it, and what a wide view met of what was asked."""

    warp: Warp
    reshaped: Reshaped | None = None
    wide: Wide | None = None


class Bend(Stage[Warped]):
    """The warp: levelled, and where that is asked for made to fill its rectangle, or a wide view."""

    reads = ("correction.proportion",)
    after = (Level, Follow)
    kept = 24

    def run(self, recipe: Recipe, *upstream: Any) -> Warped:
        views, guides = upstream
        if guides is None:
            return Warped(views.levelled.warp)
        if isinstance(guides, WideGuides):
            level = views.levelled
            camera = intrinsics(recipe.photo.width, recipe.photo.height, corrected_focal_px=views.focal_px)
            by = recipe.correction.proportion
            wide = made_wide(guides, camera, level.warp.lens, level.turn, views.down, by)
            return Warped(wide.warp, wide=wide)
        made = reshaped_along(views.levelled.warp, guides, recipe.correction.proportion)
        return Warped(made.warp, made)


def reshaped_along(warp: PlainWarp, guides: Guides, proportion: float) -> Reshaped:
    """A levelled picture made to fill its rectangle. Raises RecipeError."""
    try:
        return reshape(warp, list(guides.marked), guides.segments, proportion)
    except CannotReshapeError as error:
        raise RecipeError(
            f"{error}; take less of the tilt out, or take another way with the corners", "edges.mode"
        ) from None
