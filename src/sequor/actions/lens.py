"""What takes the bending of the lens out: nothing, a profile, the hand, straight things."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from sequor.actions.base import Action, Takes
from sequor.advice.made import Made
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.lens import LensPart
from sequor.recipe.reopen import to_solve_anew
from sequor.recipe.reset import BY_HAND, LENS_TERMS, hand_term, without_lens

BendPercent = Annotated[float, Field(ge=-30, le=30, allow_inf_nan=False)]
"""By how much the hand may move the photo's corner; barrel, the usual fault, counts as positive."""


class ChooseLens(Action):
    """What takes the bending out. ``profile``: the part of a recipe that a profile gives; ``second``: the
    next term too, where straight things tell it."""

    do: Literal["lens"]
    source: Literal["none", "profile", "manual", "straight"]
    profile: LensPart | None = None
    second: bool = False

    @model_validator(mode="after")
    def _belong_together(self) -> Self:
        given = self.profile is not None and self.profile.source == "profile"
        if given != (self.source == "profile"):
            raise ValueError("lens.profile needs lens.source “profile”, and only that")
        return self

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        if self.source == "none":
            return Made(without_lens(recipe), "Lens: correction off")
        if self.profile is not None and self.profile.profile is not None:
            after = _with_lens(recipe, **dict(self.profile))
            return Made(after, f"Lens: profile {self.profile.profile.lens}")
        if self.source == "manual":
            return Made(_by_hand(recipe, hand_term(recipe)), "Lens: by hand")
        terms = LENS_TERMS if self.second else LENS_TERMS[:1]
        before = recipe.lens.source == "straight"
        words = "from straight edges"
        if before:
            words = "complex distortion" if self.second else "simple distortion"
        return Made(_with_lens(recipe, *terms, source="straight"), f"Lens: {words}")


class Bend(Action):
    """The bending by hand, in per cent by which the photo's corner moves."""

    do: Literal["bend"]
    percent: BendPercent

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        words = "Lens: distortion adjusted by hand" if self.percent else "Lens: distortion reset"
        return Made(_by_hand(recipe, -round(self.percent * 100) / 1e4), words)


def _by_hand(recipe: Recipe, k1: float) -> Recipe:
    return _with_lens(recipe, source="manual", k1=k1)


def _with_lens(recipe: Recipe, *terms: str, **lens: Any) -> Recipe:
    """The recipe with another lens, these of its terms free; the hand's own term is remembered."""
    term = hand_term(recipe)
    if term and lens["source"] != "manual":
        lens[BY_HAND] = term
    free = [name for name in recipe.correction.free if name not in LENS_TERMS]
    return to_solve_anew(evolve(recipe, lens=evolve(LensPart(), **lens)), free=[*free, *terms])
