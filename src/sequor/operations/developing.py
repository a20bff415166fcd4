"""What is developed: raw photos, and no others."""

from __future__ import annotations

from pathlib import Path

from sequor.imaging.decode import can_be_developed
from sequor.imaging.originals.base import ONLY_RAW
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError


def refuse_undevelopable(recipe: Recipe, original: Path) -> None:
    """Raise RecipeError where a recipe develops a photo that is not raw."""
    if recipe.develop is not None and not can_be_developed(original):
        raise RecipeError(f"{ONLY_RAW}; remove “develop” from the settings", "develop")
