"""How the file is written."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sequor.actions.base import Action, Takes
from sequor.advice.made import Made
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.base import Side
from sequor.recipe.model.export import Format

Quality = Annotated[int, Field(ge=1, le=100)]


class SetFormat(Action):
    """The format of the file."""

    do: Literal["format"]
    format: Format

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        after = evolve(recipe, export=evolve(recipe.export, format=self.format))
        return Made(after, f"Export: {self.format.upper()}")


class SetQuality(Action):
    """How closely a JPEG keeps to the picture."""

    do: Literal["quality"]
    quality: Quality

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        after = evolve(recipe, export=evolve(recipe.export, quality=self.quality))
        return Made(after, f"Export: JPEG quality {self.quality}")


class SetSize(Action):
    """How many pixels are written: a width, its height then as the frame's; "print": just those that the
    print wants; null: the frame's own."""

    do: Literal["size"]
    width: Side | Literal["print"] | None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        size: tuple[int, int] | Literal["print"] | None
        if isinstance(self.width, int):
            frame = evaluate(recipe).frame
            size = (self.width, max(1, round(self.width * frame.height / frame.width)))
            words = f"Export: {size[0]} × {size[1]} px"
        else:
            size = self.width
            words = "Export: print size" if size else "Export: full size"
        return Made(evolve(recipe, export=evolve(recipe.export, size=size)), words)
