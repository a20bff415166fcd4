"""An exported picture tells the steps by which it was made: they can be taken up again on its original."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from sqlalchemy import select

from sequor.imaging.metadata import recipe_in
from sequor.operations.photos import PhotoNow, get_photo, restore
from sequor.operations.revising import Kept, add, settled
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError, build
from sequor.store.database import Store
from sequor.store.files import PatchMissingError
from sequor.store.models import Photo


def steps_in(file: Path) -> dict[str, Any] | None:
    """The recipe in an exported picture, for a photo that it names; None where there is none that can be
    used."""
    told = recipe_in(file)
    try:
        recipe = None if told is None else build(json.loads(told))
    except (RecipeError, ValueError):
        return None
    if recipe is None or recipe.photo.sha256 is None:
        return None
    return recipe.model_dump(mode="json")


def original_of(store: Store, steps: dict[str, Any]) -> Photo | None:
    """The photo that steps are for, also one that was removed; None when it is not known here."""
    with store.transaction() as session:
        return session.scalar(select(Photo).where(Photo.sha256 == steps["photo"]["sha256"]))


def _is_here(store: Store, sha256: str) -> bool:
    try:
        store.patches.path(sha256)
    except PatchMissingError:
        return False
    return True


def take_up(store: Store, photo_id: int, steps: dict[str, Any], name: str) -> PhotoNow:
    """Make the steps of an exported picture the current state of its original: a revision like any other.
    Patches that are not here any more are left out.

    Raises RecipeError, PhotoUnknownError, ChangedMeanwhileError.
    """
    restore(store, photo_id)
    recipe = Recipe.model_validate(steps)
    here = [one for one in recipe.edges.patches if _is_here(store, one.sha256)]
    recipe = evolve(recipe, edges=evolve(recipe.edges, patches=here))

    def after(seen: PhotoNow) -> Kept:
        if recipe.photo.sha256 != seen.photo.sha256:
            raise RecipeError("These steps are for another photo", "photo.sha256")
        return settled(store, photo_id, seen.recipe, recipe), f"Steps of {name}"[:200]

    return add(store, photo_id, get_photo(store, photo_id).photo.changes, after)
