"""Doing an action to a photo: what it makes of the current recipe becomes a revision."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from sequor.actions.base import Action, no_takes
from sequor.advice.made import Made
from sequor.core.raster.pixels import Picture
from sequor.operations import shaping, snapping
from sequor.operations.attach_patches import patches_done
from sequor.operations.photos import PhotoNow, current
from sequor.operations.revising import Kept, add, settled, solved, with_frame_carried
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.recipe.model import Recipe
from sequor.recipe.model.edges import PatchPart
from sequor.store.database import Store
from sequor.wording.frame import percent

Pixels = Callable[[str, Recipe], Picture]
"""The pixels of an original, by its hash, as a recipe turns and develops them."""


NOT_SHRUNK = 0.995
"""A frame that keeps so much of its width has not shrunk to speak of."""


class _NotAsAskedError(Exception):
    """An action that cannot be done as asked; nothing is stored for it."""


def act(store: Store, pixels: Pixels, photo_id: int, expected: int, action: Action) -> tuple[PhotoNow, Made]:
    """Do an action: its lines are snapped where it asks for that, and what follows from it is settled.

    What cannot be done as asked is told, and the photo stays as it is. Raises RecipeError,
    ChangedMeanwhileError, PhotoUnknownError.
    """
    made: list[Made] = []

    def done(key: str) -> Mapping[int, Sequence[PatchPart]]:
        return patches_done(store, photo_id, key)

    def after(seen: PhotoNow) -> Kept:
        outcome = action.apply(seen.recipe, done)
        made.append(outcome)
        if not outcome.done:
            raise _NotAsAskedError
        recipe = outcome.recipe
        if outcome.snap or shaping.looks_for_segments(recipe):
            picture = pixels(seen.photo.sha256, recipe)
            recipe = shaping.with_segments(picture, recipe)
            recipe = snapping.with_snapped(recipe, snapping.snap_references(picture, recipe, outcome.snap))
        recipe = settled(store, photo_id, seen.recipe, recipe)
        if not outcome.words:
            made[-1] = replace(outcome, words=shrunk_words(seen.recipe, outcome.recipe, recipe))
        return recipe, outcome.action

    try:
        return add(store, photo_id, expected, after), made[-1]
    except _NotAsAskedError:
        with store.transaction() as session:
            return current(session, photo_id, expected), made[-1]


def shrunk_words(before: Recipe, asked: Recipe, after: Recipe) -> str:
    """That a frame drawn by hand had to shrink to follow an action that was not about it; empty else."""
    was, now = before.frame.rect, after.frame.rect
    if was is None or now is None or asked.frame.rect != was or now[2] > NOT_SHRUNK * was[2]:
        return ""
    kept = percent(now[2] / was[2])
    return f"The frame was reduced to {kept}: at its old size it would reach beyond the picture."


def look(recipe: Recipe, action: Action | None) -> tuple[Evaluated, Made | None]:
    """All that is true under a recipe, after an action if one is given; nothing is stored."""
    made = None if action is None else made_by(recipe, action)
    return evaluate(recipe if made is None else made.recipe), made


def made_by(recipe: Recipe, action: Action) -> Made:
    """What an action makes of a recipe, without takes; a frame that was drawn follows angles that change."""
    made = action.apply(recipe, no_takes)
    if made.recipe.frame.rect is None:
        return made
    return replace(made, recipe=with_frame_carried(recipe, solved(made.recipe)))
