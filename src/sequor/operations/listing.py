"""Patches in a recipe: those that are known for its frame are listed in it when it is kept."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.recipe.dependence import made_for
from sequor.recipe.evaluate import evaluate
from sequor.recipe.model import PatchPart, Recipe
from sequor.store.models import Take


def with_patches(session: Session, photo_id: int, recipe: Recipe) -> Recipe:
    """The recipe with the patches that its takes have made, listed; stale ones stay until there are others.

    A part keeps the take that was chosen for it.
    """
    edges = recipe.edges
    if edges.mode != "fill":
        return recipe
    key = made_for(evaluate(recipe))
    if edges.patches and all(patch.made_for == key for patch in edges.patches):
        return recipe
    query = select(Take).where(Take.photo_id == photo_id, Take.made_for == key, Take.state == "done")
    done = {take.seed: take for take in session.scalars(query)}
    chosen = {patch.part: patch.seed for patch in edges.patches}
    wanted = {edges.seed, *chosen.values()}
    if not wanted <= set(done):
        return recipe
    names = [part["part"] for part in done[edges.seed].parts]
    patches = [patch_of(done[chosen.get(name, edges.seed)], name) for name in names]
    return recipe.model_copy(update={"edges": edges.model_copy(update={"patches": patches})})


def patch_of(take: Take, name: str) -> PatchPart:
    """The patch of a take that is done for one part."""
    part = next(one for one in take.parts if one["part"] == name)
    return PatchPart(
        sha256=part["sha256"], part=name, box=part["box"], seed=take.seed, made_for=take.made_for
    )
