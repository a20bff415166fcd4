"""What an action makes of a recipe."""

from __future__ import annotations

from dataclasses import dataclass

from sequor.recipe.model import Recipe


@dataclass(frozen=True)
class Made:
    """The recipe after an action, the action in words for the log, and what else is to be told.

    ``done`` False: it cannot be done as asked; the recipe is then the nearest to it. ``snap``: the ids of the
    lines whose real edges are to be found in the photo first.
    """

    recipe: Recipe
    action: str
    words: str = ""
    done: bool = True
    snap: tuple[str, ...] = ()
