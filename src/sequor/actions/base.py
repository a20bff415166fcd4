"""What every action has in common."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Callable, Mapping, Sequence

from pydantic import BaseModel, ConfigDict

from sequor.advice.made import Made
from sequor.recipe.model import Recipe
from sequor.recipe.model.edges import PatchPart

Takes = Callable[[str], Mapping[int, Sequence[PatchPart]]]
"""For a hash that new pixels are made for: the patches of the takes that are done, by their seeds."""


def no_takes(key: str) -> Mapping[int, Sequence[PatchPart]]:
    """Where nothing was made yet."""
    return {}


class Action(BaseModel):
    """Something done by a person, told by its name ``do`` and what it needs; it does not change."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    @abstractmethod
    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        """What it makes of a recipe whose references can be evaluated. Raises RecipeError."""
