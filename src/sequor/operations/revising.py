"""Revisions: every completed action keeps the whole recipe; undo and redo only move a pointer."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from sqlalchemy.orm import Session

from sequor.core.frame import cost as frames
from sequor.core.rectangle import Rectangle
from sequor.operations.attach_patches import with_patches
from sequor.operations.developing import refuse_undevelopable
from sequor.operations.lenses import recognised
from sequor.operations.log import imported_recipe, revision_in
from sequor.operations.photos import (
    PhotoNow,
    UnreadableStateError,
    changing,
    current,
    newest_readable,
    put,
    recipe_of,
    tell,
)
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.pipeline.frame import ratio_of, with_size_of
from sequor.pipeline.output import output_size
from sequor.pipeline.warp import Bend
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.edges import AreaPart, EdgesPart
from sequor.recipe.parse import RecipeError
from sequor.recipe.quarter_turn import quarter_turned
from sequor.recipe.reset import Step
from sequor.recipe.reset import reset as as_imported
from sequor.store.database import Store
from sequor.store.models import Revision
from sequor.wording.report import rect_values, with_solved_values
from sequor.wording.words import state

Kept = tuple[Recipe, str]
"""A recipe, and the action that made it in words."""


STEP_WORDS: dict[Step, str] = {
    "lens": "Lens",
    "lines": "Lines",
    "frame": "Crop",
    "edges": "Edges",
    "export": "Export",
}


class NothingToRedoError(Exception):
    """There is nothing to undo or to redo here."""


def revise(store: Store, photo_id: int, expected: int, recipe: Recipe, action: str) -> PhotoNow:
    """Store a completed action as a child of the current revision.

    Angles that the lines determine are solved and written in; a hand-made frame follows an angle that
    changed. Raises RecipeError, ChangedMeanwhileError, PhotoUnknownError.
    """

    def after(seen: PhotoNow) -> Kept:
        if recipe.photo != seen.recipe.photo:
            raise RecipeError("The photo's own facts cannot be changed here", "photo")
        return settled(store, photo_id, seen.recipe, recipe), action

    return add(store, photo_id, expected, after)


def settled(store: Store, photo_id: int, before: Recipe, after: Recipe) -> Recipe:
    """A recipe with all that follows from it: solved angles, the frame and size carried along, patches."""
    if after.develop is not None and after.photo.sha256 is not None:
        refuse_undevelopable(after, store.originals.path(after.photo.sha256))
    carried = with_frame_carried(before, solved(after))
    frame = evaluate(carried).frame
    sized = with_size_of(carried, frame)
    output_size(sized, frame)
    return with_patches(store, photo_id, sized)


def reset(store: Store, photo_id: int, expected: int, step: Step | None) -> PhotoNow:
    """Make a step as it was when the photo was imported; None: all steps."""
    first = _with_own_lens(store, photo_id, imported_recipe(store, photo_id))

    words = "All steps: reset" if step is None else f"{STEP_WORDS[step]}: reset"

    def after(seen: PhotoNow) -> Kept:
        return settled(store, photo_id, seen.recipe, as_imported(seen.recipe, first, step)), words

    return add(store, photo_id, expected, after)


def _with_own_lens(store: Store, photo_id: int, first: Recipe) -> Recipe:
    """The recipe of an import with the profile of the lens that is recognised, which belongs to it."""
    with store.transaction() as session:
        facts = current(session, photo_id).photo.facts
    lens = recognised(facts, first.photo)
    return first if lens is None else evolve(first, lens=lens)


def turn_quarter(store: Store, photo_id: int, expected: int, clockwise: bool) -> PhotoNow:
    """Turn the photo by 90°; its lines and frame turn with it, and level and plumb change places."""
    word = "right" if clockwise else "left"

    def after(seen: PhotoNow) -> Kept:
        return solved(quarter_turned(seen.recipe, clockwise)), f"Rotated 90° {word}"

    return add(store, photo_id, expected, after)


def undo(store: Store, photo_id: int, expected: int) -> PhotoNow:
    """Go back to the parent; a redo from there comes back here."""
    with store.transaction() as session:
        now_ = changing(session, photo_id, expected)
        left = now_.revision.id
        back = go_to(session, now_, now_.revision.parent_id, "There is nothing to undo")
        back.revision.redo_id = left
        return back


def redo(store: Store, photo_id: int, expected: int) -> PhotoNow:
    """Go forward to the child that was left last."""
    with store.transaction() as session:
        now_ = changing(session, photo_id, expected)
        return go_to(session, now_, now_.revision.redo_id, "There is nothing to redo")


def return_to(store: Store, photo_id: int, expected: int, revision_id: int) -> PhotoNow:
    """Make an older state the present one; a new revision, so that nothing of what was done since is lost."""
    with store.transaction() as session:
        revision = revision_in(session, photo_id, revision_id)
    recipe = recipe_of(revision)
    words = f"Went back to: {revision.action.removeprefix('Went back to: ')}"
    return add(store, photo_id, expected, lambda _: (recipe, words))


def recover(store: Store, photo_id: int, expected: int) -> PhotoNow:
    """Make the newest state that can be read the present one. Raises UnreadableStateError when none can."""
    with store.transaction() as session:
        current(session, photo_id)
        found = newest_readable(session, photo_id)
    if found is None:
        raise UnreadableStateError(
            "No state of this photo can be read. Its original is kept; remove the photo and import it again"
        )
    return return_to(store, photo_id, expected, found.id)


def solved(recipe: Recipe) -> Recipe:
    """The recipe with its angles as numbers where lines determine them and they are still null."""
    if recipe.correction.solved:
        return recipe
    return with_solved_values(recipe, Evaluated(recipe))


def with_frame_carried(before: Recipe, after: Recipe) -> Recipe:
    """A hand-made frame keeps its centre on the same point of the photo when the map changes; areas lie on
    the same things."""
    rect = after.frame.rect
    own = rect is not None and before.frame.rect == rect
    if not own and not (after.edges.donors or after.edges.touch_ups):
        return after
    # Their warps are looked at, not their frames: a hand-made one may not fit under an angle that changed.
    old, new = Evaluated(before), Evaluated(after)
    if old.fingerprint(Bend) == new.fingerprint(Bend):
        return after
    after = evolve(after, edges=areas_carried(before.edges, after.edges, old, new))
    if rect is None or not own:
        return after
    carried = frames.carry(Rectangle(*rect), old.warp, new.warp, ratio_of(after), after.frame.allow_empty)
    frame = evolve(after.frame, rect=rect_values(carried))
    return evolve(after, frame=frame)


def areas_carried(before: EdgesPart, after: EdgesPart, old: Evaluated, new: Evaluated) -> EdgesPart:
    """The areas that were there before on the same things under a new map."""

    def carried(area: AreaPart, known: Sequence[AreaPart]) -> AreaPart:
        if not any(one.id == area.id and one.points == area.points for one in known):
            return area
        moved = new.warp.turned(old.warp.to_ideal(np.array(area.points)))
        if not np.all(np.isfinite(moved)):
            return area
        return evolve(area, points=[(float(x), float(y)) for x, y in np.round(moved, 3)])

    return evolve(
        after,
        donors=[carried(one, before.donors) for one in after.donors],
        touch_ups=[carried(one, before.touch_ups) for one in after.touch_ups],
    )


def revision_of(photo_id: int, recipe: Recipe, action: str, parent_id: int | None = None) -> Revision:
    """A new row for an action; its recipe must be one that can be evaluated."""
    return Revision(
        photo_id=photo_id,
        parent_id=parent_id,
        action=action,
        state=state(evaluate(recipe)),
        recipe=recipe.model_dump(mode="json"),
    )


def go_to(session: Session, now_: PhotoNow, revision_id: int | None, nothing: str) -> PhotoNow:
    """Move the pointer to another revision; NothingToRedoError with these words when there is none."""
    revision = session.get(Revision, revision_id or 0)
    if revision is None:
        raise NothingToRedoError(nothing)
    now_.photo.revision_id = revision.id
    tell(session, now_.photo, revision)
    return PhotoNow(now_.photo, revision)


def add(
    store: Store,
    photo_id: int,
    expected: int,
    after: Callable[[PhotoNow], Kept],
    along: Callable[[Session, Revision], None] | None = None,
) -> PhotoNow:
    """Store what ``after`` makes of the current recipe, as a child of its revision; ``along``: what is
    written in the same transaction.

    All that takes time is done before anything is locked. Should a take have been listed meanwhile, which
    counts as no change of the photo, it is done once more. Raises ChangedMeanwhileError.
    """
    while True:
        with store.transaction() as session:
            seen = current(session, photo_id, expected)
        revision = revision_of(photo_id, *after(seen), seen.revision.id)
        with store.transaction() as session:
            now_ = changing(session, photo_id, expected, lock=True)
            if now_.revision.id == seen.revision.id:
                there = added(session, now_, revision)
                if along is not None:
                    along(session, revision)
                return there


def added(session: Session, now_: PhotoNow, revision: Revision) -> PhotoNow:
    """A revision put behind the current one, to which the photo then points."""
    put(session, revision)
    now_.revision.redo_id = revision.id
    now_.photo.revision_id = revision.id
    tell(session, now_.photo, revision)
    return PhotoNow(now_.photo, revision)
