"""What a wide view follows: how wide it looks, and what each line is to become."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from sequor.core.camera import Array, Intrinsics
from sequor.core.distortion.models import Lens
from sequor.core.references.registry import kind_of
from sequor.core.warp.wide.make import Spread, View, Wide, spread, wide_warp
from sequor.core.warp.wide.view import CannotShowError
from sequor.core.warp.wide.wish import Wish, great_circle
from sequor.pipeline.fingerprint import settled
from sequor.pipeline.references import as_reference
from sequor.pipeline.results import RESULTS
from sequor.recipe.model import Recipe
from sequor.recipe.model.references import BecomePart, ReferencePart
from sequor.recipe.parse import RecipeError

MOST_KEPT = 6
"""Of what no wish changes: each takes 10 MB, and a view that is dragged needs no more."""

SLOPES = {"level": 0.0, "upright": 90.0, "straight": None}


@dataclass(frozen=True)
class Becoming:
    """A side of a line that is to become something: ``points`` (N, 2) in photo pixels, ``slope`` in degrees
    as a wish has it; ``traced``: the points are the curve itself, for the lens is not known."""

    id: str
    points: Array
    slope: float | None
    amount: float
    traced: bool


@dataclass(frozen=True)
class WideGuides:
    """All that a wide view follows, but for the camera."""

    view: View
    becoming: tuple[Becoming, ...]
    amount: float

    def numbers(self) -> list[Any]:
        """What it comes down to."""
        lines = [[one.id, one.points.tolist(), one.slope, one.amount, one.traced] for one in self.becoming]
        return ["wide", *self.spread_numbers(), lines, self.amount]

    def spread_numbers(self) -> list[Any]:
        """The same, but for the lines."""
        view = self.view
        found = None if view.found is None else view.found.tolist()
        return [view.kind, view.looks_like_35mm, view.uprights, view.rectangle, found]


def is_wide(recipe: Recipe) -> bool:
    """Whether the picture is more than a levelled one: a fisheye, a wide view, or lines that become
    something."""
    asked = recipe.view.kind != "flat" or recipe.bend.border == "rectangle" or recipe.lens.fisheye
    return asked or any(_asks(part) for part in recipe.references)


def wide_guides_of(recipe: Recipe) -> WideGuides | None:
    """What a wide view of a recipe follows; None where it has none."""
    if not is_wide(recipe):
        return None
    part, bend = recipe.view, recipe.bend
    flat = part.kind == "flat"
    segments = recipe.edges.segments
    view = View(
        kind="round" if part.kind == "flat" else part.kind,
        looks_like_35mm=None if flat else part.looks_like_35mm,
        uprights=part.uprights,
        rectangle=bend.border == "rectangle",
        found=None if segments is None else np.array(segments).reshape(-1, 2, 2),
    )
    becoming = tuple(
        one
        for reference in recipe.references
        if reference.become is not None and _asks(reference)
        for one in _sides(reference, reference.become, recipe.lens.source == "none")
    )
    return WideGuides(view, becoming, bend.amount if bend.on else 0.0)


def made_wide(
    guides: WideGuides, camera: Intrinsics, lens: Lens, turn: Array, down: Array, proportion: float
) -> Wide:
    """The wide view of a camera whose rays are turned by ``turn`` (3, 3) into the corrected picture's axes,
    where ``down`` (3,) is plumb. Raises RecipeError."""
    numbers = [*guides.spread_numbers(), turn.tolist(), down.tolist(), proportion]
    numbers += [camera.width, camera.height, camera.focal_px, lens.centre, *lens.numbers()]

    def make() -> Spread:
        return spread(camera, lens, turn, down, guides.view, proportion)

    try:
        first = RESULTS.get("Spread", settled(numbers), make, MOST_KEPT)
        return wide_warp(first, [_wish(one, first) for one in guides.becoming], guides.amount)
    except CannotShowError as error:
        field = "bend.border" if guides.view.rectangle else "view"
        raise RecipeError(f"{error}; correct less, or choose another view at Lens", field) from None


def _asks(part: ReferencePart) -> bool:
    return part.become is not None and part.active and part.become.amount > 0


def _sides(part: ReferencePart, become: BecomePart, lens_unknown: bool) -> list[Becoming]:
    kind = kind_of(part.kind)
    found = []
    for number, points in enumerate(as_reference(part).sides):
        way = become.way
        leans = way
        if kind.joined and way != "straight":
            # All four sides of a rectangle; the lean is that of the ones that are asked for.
            way = "upright" if number % 2 else "level"
        slope = SLOPES[way]
        if slope is not None and way == leans:
            # A lean to the right is a slope past upright.
            slope += become.off_deg
        traced = lens_unknown and len(points) > 2
        found.append(Becoming(part.id, points, slope, become.amount, traced))
    return found


def _wish(one: Becoming, first: Spread) -> Wish:
    rays = first.exact.rays_of(one.points)
    if not np.all(np.isfinite(rays)):
        raise RecipeError(
            "One end of the line is outside the area the lens covers; move it inwards", "references"
        )
    trace = one.points if one.traced else None
    return Wish(one.id, great_circle(rays), trace, one.slope, one.amount)
