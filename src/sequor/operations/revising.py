"""Revisions: every completed action keeps the whole recipe; undo and redo only move a pointer."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session
from sqlalchemy.orm.attributes import flag_modified

from sequor.core.frame import cost as frames
from sequor.core.rectangle import Rectangle
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.pipeline.frame import ratio_of, with_size_of
from sequor.pipeline.output import output_size
from sequor.pipeline.warp import Bend
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.edges import AreaPart, EdgesPart
from sequor.recipe.parse import RecipeError, build
from sequor.recipe.quarter_turn import quarter_turned
from sequor.store.database import CHANGED, ChangedMeanwhileError, Store
from sequor.store.models import Photo, Revision, now
from sequor.wording.report import rect_values, with_solved_values
from sequor.wording.words import state

from .attach_patches import with_patches


class PhotoUnknownError(LookupError):
    """There is no photo with this number, or it was removed."""


class NothingToRedoError(Exception):
    """There is nothing to undo or to redo here."""


class UnreadableStateError(Exception):
    """A stored state of a photo that this program cannot read."""


@dataclass(frozen=True)
class PhotoNow:
    """A photo with its current revision, detached from the database.

    ``readable``: the newest revision that can be read, where the current one cannot.
    """

    photo: Photo
    revision: Revision
    readable: Revision | None = None

    @cached_property
    def recipe(self) -> Recipe:
        """The current recipe, read once. Raises UnreadableStateError."""
        return recipe_of(self.revision)

    @property
    def is_readable(self) -> bool:
        """Whether the current recipe can be read."""
        try:
            return self.recipe is not None
        except UnreadableStateError:
            return False

    @property
    def before(self) -> PhotoNow | None:
        """The photo as it was when it could last be read; None when it never could."""
        return None if self.readable is None else PhotoNow(self.photo, self.readable)

    @property
    def can_undo(self) -> bool:
        """Whether there is an action before this one."""
        return self.revision.parent_id is not None

    @property
    def can_redo(self) -> bool:
        """Whether an action was undone from here."""
        return self.revision.redo_id is not None


def recipe_of(revision: Revision) -> Recipe:
    """The recipe of a revision. Raises UnreadableStateError."""
    try:
        return build(revision.recipe)
    except RecipeError as error:
        raise UnreadableStateError(
            f"the state “{revision.action}” cannot be read ({error.field or 'recipe'}: {error}). "
            "The original and all other states are kept; go back to the last one that can be read, on the "
            "contact sheet"
        ) from None


def list_photos(store: Store) -> list[PhotoNow]:
    """All photos on the contact sheet, in the order they came; one that cannot be read hides no other."""
    with store.transaction() as session:
        query = select(Photo, Revision).join(Photo.revision).where(Photo.removed_at.is_(None))
        found = [PhotoNow(photo, revision) for photo, revision in session.execute(query.order_by(Photo.id))]
        return [now if now.is_readable else _with_readable(session, now) for now in found]


def _with_readable(session: Session, now: PhotoNow) -> PhotoNow:
    """A photo whose state cannot be read, with the newest one that can."""
    query = select(Revision).where(Revision.photo_id == now.photo.id).order_by(Revision.id.desc())
    for revision in session.scalars(query.execution_options(yield_per=20)):
        if PhotoNow(now.photo, revision).is_readable:
            return replace(now, readable=revision)
    return now


def get_photo(store: Store, photo_id: int) -> PhotoNow:
    """One photo. Raises PhotoUnknownError."""
    with store.transaction() as session:
        return _current(session, photo_id)


def list_revisions(store: Store, photo_id: int) -> list[Revision]:
    """Everything that was done to a photo, the import first. Raises PhotoUnknownError."""
    with store.transaction() as session:
        _current(session, photo_id)
        query = select(Revision).where(Revision.photo_id == photo_id).order_by(Revision.id)
        return list(session.scalars(query))


def get_revision(store: Store, photo_id: int, revision_id: int) -> Recipe:
    """The recipe of one revision of a photo. Raises PhotoUnknownError, UnreadableStateError."""
    with store.transaction() as session:
        _current(session, photo_id)
        return recipe_of(_revision(session, photo_id, revision_id))


def rename(store: Store, photo_id: int, expected: int, title: str) -> PhotoNow:
    """Give a photo another title."""
    with store.transaction() as session:
        now_ = changing(session, photo_id, expected)
        now_.photo.title = title
        return touched(now_)


def remove(store: Store, photo_id: int, expected: int) -> PhotoNow:
    """Take a photo off the contact sheet; its original and history stay, so that it can be undone."""
    with store.transaction() as session:
        now_ = changing(session, photo_id, expected)
        now_.photo.removed_at = now()
        return touched(now_)


def restore(store: Store, photo_id: int) -> PhotoNow:
    """Undo a removal. Harmless when it was undone already."""
    with store.transaction() as session:
        photo = session.get(Photo, photo_id, with_for_update=True)
        if photo is None:
            raise PhotoUnknownError(f"there is no photo {photo_id}")
        photo.removed_at = None
        session.flush()
        return _current(session, photo_id)


def revise(store: Store, photo_id: int, expected: int, recipe: Recipe, action: str) -> PhotoNow:
    """Store a completed action as a child of the current revision.

    Angles that the lines determine are solved and written in; a hand-made frame follows an angle that
    changed. Raises RecipeError, ChangedMeanwhileError, PhotoUnknownError.
    """

    def after(seen: PhotoNow) -> Recipe:
        before = seen.recipe
        if recipe.photo != before.photo:
            raise RecipeError("the photo's own facts cannot be changed here", "photo")
        carried = with_frame_carried(before, solved(recipe))
        frame = evaluate(carried).frame
        sized = with_size_of(carried, frame)
        output_size(sized, frame)
        return with_patches(store, photo_id, sized)

    return _add(store, photo_id, expected, after, action)


def turn_quarter(store: Store, photo_id: int, expected: int, clockwise: bool) -> PhotoNow:
    """Turn the photo by 90°; its lines and frame turn with it, and level and plumb change places."""
    word = "right" if clockwise else "left"

    def after(seen: PhotoNow) -> Recipe:
        return solved(quarter_turned(seen.recipe, clockwise))

    return _add(store, photo_id, expected, after, f"Turned a quarter {word}")


def undo(store: Store, photo_id: int, expected: int) -> PhotoNow:
    """Go back to the parent; a redo from there comes back here."""
    with store.transaction() as session:
        current = changing(session, photo_id, expected)
        left = current.revision.id
        back = _go_to(session, current, current.revision.parent_id, "there is nothing to undo")
        back.revision.redo_id = left
        return back


def redo(store: Store, photo_id: int, expected: int) -> PhotoNow:
    """Go forward to the child that was left last."""
    with store.transaction() as session:
        current = changing(session, photo_id, expected)
        return _go_to(session, current, current.revision.redo_id, "there is nothing to redo")


def return_to(store: Store, photo_id: int, expected: int, revision_id: int) -> PhotoNow:
    """Make an older state the present one; a new revision, so that nothing of what was done since is lost."""
    with store.transaction() as session:
        revision = _revision(session, photo_id, revision_id)
    recipe = recipe_of(revision)
    words = f"Back to: {revision.action.removeprefix('Back to: ')}"
    return _add(store, photo_id, expected, lambda _: recipe, words)


def recover(store: Store, photo_id: int, expected: int) -> PhotoNow:
    """Make the newest state that can be read the present one. Raises UnreadableStateError when none can."""
    with store.transaction() as session:
        found = _with_readable(session, _current(session, photo_id)).readable
    if found is None:
        raise UnreadableStateError(
            "no state of this photo can be read; its original is kept. Import it again after it was removed"
        )
    return return_to(store, photo_id, expected, found.id)


def solved(recipe: Recipe) -> Recipe:
    """The recipe with its angles as numbers where lines determine them and they are still null."""
    if recipe.correction.solved:
        return recipe
    return with_solved_values(recipe, evaluate_without_frame(recipe))


def evaluate_without_frame(recipe: Recipe) -> Evaluated:
    """Evaluate a recipe as if its frame were the largest: for when an angle changes under a hand-made one."""
    return evaluate(evolve(recipe, frame=evolve(recipe.frame, rect=None)))


def with_frame_carried(before: Recipe, after: Recipe) -> Recipe:
    """A hand-made frame keeps its centre on the same point of the photo when the map changes; areas lie on
    the same things."""
    rect = after.frame.rect
    own = rect is not None and before.frame.rect == rect
    if not own and not (after.edges.donors or after.edges.touch_ups):
        return after
    old, new = evaluate_without_frame(before), evaluate_without_frame(after)
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


def _go_to(session: Session, current: PhotoNow, revision_id: int | None, nothing: str) -> PhotoNow:
    """Move the pointer to another revision; NothingToRedoError with these words when there is none."""
    revision = session.get(Revision, revision_id or 0)
    if revision is None:
        raise NothingToRedoError(nothing)
    current.photo.revision_id = revision.id
    return PhotoNow(current.photo, revision)


def _add(
    store: Store,
    photo_id: int,
    expected: int,
    after: Callable[[PhotoNow], Recipe],
    action: str,
) -> PhotoNow:
    """Store what ``after`` makes of the current recipe, as a child of its revision.

    All that takes time is done before anything is locked. Should a take have been listed meanwhile, which
    counts as no change of the photo, it is done once more. Raises ChangedMeanwhileError.
    """
    while True:
        with store.transaction() as session:
            seen = _current(session, photo_id, expected)
        recipe = after(seen)
        revision = revision_of(photo_id, recipe, action, seen.revision.id)
        with store.transaction() as session:
            current = changing(session, photo_id, expected, lock=True)
            if current.revision.id == seen.revision.id:
                return added(session, current, revision)


def added(session: Session, current: PhotoNow, revision: Revision) -> PhotoNow:
    """A revision put behind the current one, to which the photo then points."""
    session.add(revision)
    session.flush()
    current.revision.redo_id = revision.id
    current.photo.revision_id = revision.id
    return PhotoNow(current.photo, revision)


def _revision(session: Session, photo_id: int, revision_id: int) -> Revision:
    """One revision of a photo. Raises PhotoUnknownError."""
    revision = session.get(Revision, revision_id)
    if revision is None or revision.photo_id != photo_id:
        raise PhotoUnknownError(f"the photo has no revision {revision_id}")
    return revision


def _current(session: Session, photo_id: int, expected: int | None = None, lock: bool = False) -> PhotoNow:
    """The photo as it is now. Raises PhotoUnknownError, ChangedMeanwhileError when its count is another."""
    photo = session.get(Photo, photo_id, with_for_update=lock or None)
    if photo is None or photo.removed_at is not None or photo.revision_id is None:
        raise PhotoUnknownError(f"there is no photo {photo_id}; it may have been removed")
    if expected is not None and photo.changes != expected:
        raise ChangedMeanwhileError(CHANGED)
    return PhotoNow(photo, session.get_one(Revision, photo.revision_id))


def changing(session: Session, photo_id: int, expected: int, lock: bool = False) -> PhotoNow:
    """The photo, about to be changed: every writer goes through here, and SQLAlchemy refuses the write when
    somebody else was first. Raises PhotoUnknownError, ChangedMeanwhileError."""
    return _current(session, photo_id, expected, lock)


def touched(changed: PhotoNow) -> PhotoNow:
    """Let a photo count as changed of which only something around it is: a version, say."""
    flag_modified(changed.photo, "revision_id")
    return changed
