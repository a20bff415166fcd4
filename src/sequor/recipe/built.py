"""What the recipe may ask for but this version does not carry out yet: refused by name, never ignored."""

from __future__ import annotations

from collections.abc import Iterator

from .model import Recipe
from .reading import RecipeError


def refuse_unbuilt(recipe: Recipe) -> None:
    """Raise RecipeError for the first thing in the recipe that is not built yet."""
    for field, what in _unbuilt(recipe):
        raise RecipeError(f"{what} is not built yet", field)


def _unbuilt(recipe: Recipe) -> Iterator[tuple[str, str]]:
    if recipe.edges.mode not in ("trim", "fill", "leave"):
        yield "edges.mode", f"the edges mode {recipe.edges.mode!r}"
