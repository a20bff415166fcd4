"""What is taken out: how much of each angle, the hand's part, proportion and focal length."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from sequor.actions.base import Action, Takes
from sequor.advice.made import Made
from sequor.advice.presets import PRESETS, preset_action
from sequor.advice.suggestions import offers
from sequor.core.estimation.unknowns import Unknown
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.base import Share
from sequor.recipe.model.correction import BY_HAND_RANGES, ByHand
from sequor.recipe.parse import RecipeError
from sequor.recipe.reopen import taking_out, to_solve_anew

Angle = Literal["roll", "pitch", "yaw"]

Degrees = Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)]

NAMES: dict[Angle, str] = {"roll": "Tilt", "pitch": "Verticals", "yaw": "Horizontals"}
"""What people correct when an angle is corrected."""

FOCAL: Unknown = "focal_px"

Stretch = Annotated[float, Field(ge=-50, le=50, allow_inf_nan=False)]


class TakeAway(Action):
    """So many degrees of an angle are to be taken out in all, whatever the lines say: the hand gives the
    difference, as far as its range goes."""

    do: Literal["take out"]
    angle: Angle
    degrees: Degrees

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        hand = getattr(recipe.correction.by_hand, self.angle)
        wanted = hand + self.degrees - evaluate(recipe).taken_out(self.angle)
        most = BY_HAND_RANGES[self.angle]
        after = _by_hand(recipe, self.angle, min(most, max(-most, round(wanted, 4))))
        return Made(after, f"{NAMES[self.angle]}: adjusted by hand")


class HandBack(Action):
    """The hand's part of an angle back to nothing; null: of all three, and the proportion."""

    do: Literal["hand back"]
    angle: Angle | None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        if self.angle is None:
            return Made(_corrected(recipe, by_hand=ByHand(), proportion=1.0), "All hand adjustments reset")
        words = f"{NAMES[self.angle]}: hand adjustment removed"
        return Made(_by_hand(recipe, self.angle, 0.0), words)


class Amount(Action):
    """How much of a solved angle is taken out."""

    do: Literal["amount"]
    angle: Angle
    share: Share

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        amount = evolve(recipe.correction.amount, **{self.angle: self.share})
        return Made(
            _corrected(recipe, amount=amount), f"{NAMES[self.angle]}: {100 * self.share:g}% corrected"
        )


class SwitchAngle(Action):
    """Whether an angle is taken out at all; when it is not, the hand has no part in it either."""

    do: Literal["switch angle"]
    angle: Angle
    on: bool

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        after = recipe if self.on else _by_hand(recipe, self.angle, 0.0)
        on = evolve(recipe.correction.on, **{self.angle: self.on})
        words = f"{NAMES[self.angle]}: correction {'on' if self.on else 'off'}"
        return Made(_corrected(after, on=on), words)


class Proportion(Action):
    """Taller (positive) or wider than the focal length says, in per cent."""

    do: Literal["proportion"]
    percent: Stretch

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        words = "Proportions: adjusted by hand" if self.percent else "Proportions: reset"
        return Made(_corrected(recipe, proportion=round(1 + self.percent / 100, 5)), words)


class Focal(Action):
    """Whether the focal length is found from the lines; a given one gives way."""

    do: Literal["focal length"]
    free: bool

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        others = [name for name in recipe.correction.free if name != FOCAL]
        free = [*others, *([FOCAL] if self.free else [])]
        words = "Focal length: worked out from the lines" if self.free else "Focal length: as recorded"
        return Made(to_solve_anew(recipe, free=free, focal_px=None), words)


class Way(Action):
    """How far the correction goes: nothing, the tilt only, verticals too, or all of it."""

    do: Literal["way"]
    name: str

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        for name, angles, _ in PRESETS:
            if name == self.name:
                return Made(taking_out(recipe, *angles), preset_action(name))
        names = ", ".join(name for name, *_ in PRESETS)
        raise RecipeError(f"{self.name!r} is no way; they are {names}", "name")


class TakeOffer(Action):
    """A choice among those that a question offers, by their names; nothing when the question is gone."""

    do: Literal["offer"]
    name: str
    label: str

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        for offer in offers(evaluate(recipe)):
            for choice in offer.choices:
                if (offer.name, choice.label) == (self.name, self.label):
                    return Made(choice.recipe, choice.action)
        return Made(recipe, "", "The lines have changed, so this suggestion no longer applies.", done=False)


def _by_hand(recipe: Recipe, angle: Angle, degrees: float) -> Recipe:
    return _corrected(recipe, by_hand=evolve(recipe.correction.by_hand, **{angle: degrees}))


def _corrected(recipe: Recipe, **changes: Any) -> Recipe:
    return evolve(recipe, correction=evolve(recipe.correction, **changes))
