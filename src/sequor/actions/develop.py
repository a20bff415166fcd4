"""How a raw photo is developed."""

from __future__ import annotations

from typing import Literal

from sequor.actions.base import Action, Takes
from sequor.advice.made import Made
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.develop import DevelopPart, Stops, Temperature, Tint


class SetWhite(Action):
    """The light that is to look white: what is named is set, null as shot; what is not named stays, so that
    two in haste do not undo one another."""

    do: Literal["white"]
    temperature: Temperature | None = None
    tint: Tint | None = None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        changes = {
            name: getattr(self, name) for name in ("temperature", "tint") if name in self.model_fields_set
        }
        words = [
            *([] if self.temperature is None else [f"{self.temperature:.0f} K"]),
            *([] if self.tint is None else [f"tint {self.tint:+.0f}".replace("-", "−")]),
        ]
        return Made(_with(recipe, **changes), f"Raw: white balance {', '.join(words) or 'as shot'}")


class SetExposure(Action):
    """How much lighter or darker the photo is than it was taken."""

    do: Literal["exposure"]
    stops: Stops

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        words = f"{self.stops:+g} stops".replace("-", "−") if self.stops else "as shot"
        return Made(_with(recipe, exposure=self.stops), f"Raw: exposure {words}")


def _with(recipe: Recipe, **changes: float | None) -> Recipe:
    """The recipe developed otherwise; nothing is noted of what is as shot."""
    part = evolve(recipe.develop or DevelopPart(), **changes)
    return evolve(recipe, develop=None if part == DevelopPart() else part)
