"""The law of a fisheye, how wide a picture looks, and what its lines are to become."""

from __future__ import annotations

import math
from typing import Any, Literal

import numpy as np
from pydantic import Field

from sequor.actions.base import Action, Takes
from sequor.actions.lines import line_of
from sequor.advice.made import Made
from sequor.advice.views import with_kind
from sequor.core.camera import intrinsics
from sequor.core.distortion.fisheye import GROWTH, Law
from sequor.core.distortion.models import half_diagonal
from sequor.core.estimation.unknowns import ANGLES
from sequor.core.references.base import Way
from sequor.core.references.registry import kind_of
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.base import Share
from sequor.recipe.model.lens import LensPart
from sequor.recipe.model.references import BecomePart, Lean, ReferencePart
from sequor.recipe.model.view import Border, LooksLike, Uprights, ViewKind
from sequor.recipe.reopen import to_solve_anew

VIEW_WORDS = {"flat": "flat", "round": "round", "sideways": "round sideways only"}


class ChooseFisheye(Action):
    """A fisheye by its law; ``equivalent_mm``, its focal length for the 35 mm format; null: as recorded, else
    such that the photo's corners are 90 degrees off its middle."""

    do: Literal["fisheye"]
    law: Law
    equivalent_mm: float | None = Field(default=None, ge=3, le=60, allow_inf_nan=False)

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        photo, size = recipe.photo, (recipe.photo.width, recipe.photo.height)
        camera = intrinsics(*size, focal_35mm=self.equivalent_mm)
        if self.equivalent_mm is None:
            camera = intrinsics(
                *size,
                corrected_focal_px=recipe.lens.focal_px,
                photo_focal_px=photo.focal_px,
                focal_35mm=photo.focal_35mm,
            )
        focal = camera.focal_px
        if camera.source == "assumed":
            focal = half_diagonal(*size) / corner_growth(self.law)
        lens = LensPart(source="manual", model=self.law, focal_px=round(focal, 3))
        free = [name for name in recipe.correction.free if name in ANGLES]
        after = to_solve_anew(evolve(recipe, lens=lens), free=free, focal_px=None)
        return Made(after, f"Lens: fisheye, {self.law}")


def corner_growth(law: Law) -> float:
    """The recorded radius in focal lengths of what is 90 degrees off the axis."""
    return float(GROWTH[law].radius(np.array([math.pi / 2]))[0])


class ChooseView(Action):
    """How a picture is put on paper: flat, round, or round sideways only."""

    do: Literal["view"]
    kind: ViewKind

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        return Made(with_kind(recipe, self.kind), f"View: {VIEW_WORDS[self.kind]}")


class LookLike(Action):
    """Nothing is stretched more than at the edge of a flat picture of so many millimetres; null: as taken."""

    do: Literal["looks like"]
    mm: LooksLike | None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        kind = "round" if recipe.view.kind == "flat" else recipe.view.kind
        mm = None if self.mm is None else round(self.mm, 1)
        words = "as taken" if mm is None else f"looks like {mm:g} mm"
        return Made(_with_view(recipe, looks_like_35mm=mm, kind=kind), f"View: {words}")


class KeepUprights(Action):
    """How firmly what is upright stays so in a round view."""

    do: Literal["uprights"]
    value: Uprights

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        return Made(_with_view(recipe, uprights=round(self.value, 2)), "View: vertical lines kept upright")


class KeepBorder(Action):
    """Whether the photo's border becomes a rectangle, so that nothing has to be cut."""

    do: Literal["border"]
    border: Border

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        words = "border kept a rectangle" if self.border == "rectangle" else "border free"
        return Made(evolve(recipe, bend=evolve(recipe.bend, border=self.border)), f"View: {words}")


class Wish(Action):
    """What a line is to become; ``way`` null: it is let go."""

    do: Literal["wish"]
    line: str
    way: Way | None
    off_deg: Lean = 0.0
    amount: Share = 1.0

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        number, _ = line_of(recipe, self.line)
        if self.way is None:
            return Made(_becoming(recipe, self.line, None), f"Line {number}: let go")
        off = 0.0 if self.way == "straight" else round(self.off_deg, 2)
        wish = BecomePart(way=self.way, off_deg=off, amount=round(self.amount, 3))
        words = f"Line {number}: made {self.way}"
        if off:
            words += f", {off:+.1f}°".replace("-", "−")
        return Made(_becoming(recipe, self.line, wish), words)


class WishAll(Action):
    """Every line becomes what its kind says, or all are let go."""

    do: Literal["wish all"]
    on: bool

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        def wished(part: ReferencePart) -> ReferencePart:
            way = kind_of(part.kind).becomes
            if not self.on or way is None:
                return evolve(part, become=None)
            return part if part.become is not None else evolve(part, become=BecomePart(way=way))

        after = evolve(recipe, references=[wished(part) for part in recipe.references])
        return Made(after, "All lines: made straight" if self.on else "All lines: let go")


class CarryOut(Action):
    """How far what was asked of the lines is carried out."""

    do: Literal["carry out"]
    amount: Share

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        bend = evolve(recipe.bend, amount=round(self.amount, 3), on=True)
        return Made(evolve(recipe, bend=bend), f"Lines: straightened to {100 * self.amount:.0f}%")


def _with_view(recipe: Recipe, **changes: Any) -> Recipe:
    return evolve(recipe, view=evolve(recipe.view, **changes))


def _becoming(recipe: Recipe, name: str, become: BecomePart | None) -> Recipe:
    references = [evolve(part, become=become) if part.id == name else part for part in recipe.references]
    return evolve(recipe, references=references)
