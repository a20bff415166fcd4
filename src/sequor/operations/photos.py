"""Photos as rows: what each card tells, and the one check of every write."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session
from sqlalchemy.orm.attributes import flag_modified

from sequor.operations.looking import look_key, looked_of
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError, build
from sequor.store.database import CHANGED, ChangedMeanwhileError, Store
from sequor.store.models import Photo, Revision, Version, now
from sequor.wording.frame import frame_ratio_words
from sequor.wording.words import UNREADABLE


class PhotoUnknownError(LookupError):
    """There is no photo with this number, or it was removed."""


class UnreadableStateError(Exception):
    """A stored state of a photo that this program cannot read."""


@dataclass(frozen=True)
class PhotoNow:
    """A photo with its current revision, detached from the database."""

    photo: Photo
    revision: Revision

    @cached_property
    def recipe(self) -> Recipe:
        """The current recipe, read once. Raises UnreadableStateError."""
        return recipe_of(self.revision)

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
            f"The state “{revision.action}” cannot be read ({error.field or 'recipe'}: {error}). "
            "The original and all other states are kept; go back to the last one that can be read, on the "
            "contact sheet"
        ) from None


def get_photo(store: Store, photo_id: int) -> PhotoNow:
    """One photo. Raises PhotoUnknownError."""
    with store.transaction() as session:
        return current(session, photo_id)


def refuse_others(store: Store, photo_id: int) -> None:
    """Let nobody ask for anything of a photo that is not theirs. Raises PhotoUnknownError."""
    with store.transaction() as session:
        if session.scalar(select(Photo.id).where(Photo.id == photo_id)) is None:
            raise PhotoUnknownError("This photo is no longer on the contact sheet")


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
            raise PhotoUnknownError("This photo is no longer on the contact sheet")
        photo.removed_at = None
        session.flush()
        return current(session, photo_id)


def tell(session: Session, photo: Photo, revision: Revision) -> None:
    """Let a photo's row tell of a revision, as part of a change of it. What was found by looking through
    another lens does not hold any more."""
    recipe = _readable(revision)
    told = _told_of(session, revision, recipe)
    if recipe is not None and photo.looked and photo.looked != look_key(recipe, photo.facts.get("held")):
        told |= looked_of(None)
    for name, value in told.items():
        setattr(photo, name, value)


def told_of(session: Session, revision: Revision) -> dict[str, Any]:
    """The columns of a photo that stands at a revision, for whoever does not read the recipe. Where it cannot
    be read, they name the newest state that can."""
    return _told_of(session, revision, _readable(revision))


def _readable(revision: Revision) -> Recipe | None:
    try:
        return recipe_of(revision)
    except UnreadableStateError:
        return None


def _told_of(session: Session, revision: Revision, recipe: Recipe | None) -> dict[str, Any]:
    if recipe is None:
        readable = newest_readable(session, revision.photo_id)
        return {"state": UNREADABLE, "readable_id": readable.id if readable else 0}
    return {
        "state": revision.state,
        "ratio": frame_ratio_words(recipe),
        "shown_width": recipe.photo.width,
        "shown_height": recipe.photo.height,
        "readable_id": None,
    }


def version_names(session: Session, photo_id: int) -> list[str]:
    """The names of a photo's versions, in the order they were made."""
    query = select(Version.name).where(Version.photo_id == photo_id, Version.removed_at.is_(None))
    return list(session.scalars(query.order_by(Version.id)))


def tell_versions(session: Session, photo: Photo) -> None:
    """Let a photo's row tell the names of its versions, as part of a change of it."""
    session.flush()
    photo.version_names = version_names(session, photo.id)


def look_through(store: Store, some: list[int] | None = None) -> int:
    """See whether the states of photos can be read, and let their rows tell it; how many cannot.

    ``some``: these; None: all whose rows tell nothing yet. A card then shows the newest state that can be
    read.
    """
    which = Photo.state.is_(None) if some is None else Photo.id.in_(some)
    with store.transaction() as session:
        numbers = list(session.scalars(select(Photo.id).where(which, Photo.revision_id.is_not(None))))
    unreadable = 0
    for number in numbers:
        with store.transaction() as session:
            photo = session.get_one(Photo, number)
            told = told_of(session, session.get_one(Revision, photo.revision_id))
            unreadable += told["readable_id"] is not None
            # Not through the photo: this is no change of it.
            same = update(Photo).where(Photo.id == number, Photo.revision_id == photo.revision_id)
            session.execute(same.values(**told, version_names=version_names(session, number)))
    return unreadable


def newest_readable(session: Session, photo_id: int) -> Revision | None:
    """The newest state of a photo that can be read; None without one."""
    query = select(Revision).where(Revision.photo_id == photo_id).order_by(Revision.id.desc())
    found = session.scalars(query.execution_options(yield_per=20))
    return next((revision for revision in found if _readable(revision) is not None), None)


def put(session: Session, revision: Revision) -> Revision:
    """Store a new revision behind those of its photo, whose row is locked or its own."""
    last = select(func.max(Revision.number)).where(Revision.photo_id == revision.photo_id)
    revision.number = (session.scalar(last) or 0) + 1
    session.add(revision)
    session.flush()
    return revision


def current(session: Session, photo_id: int, expected: int | None = None, lock: bool = False) -> PhotoNow:
    """The photo as it is now. Raises PhotoUnknownError, ChangedMeanwhileError when its count is another."""
    photo = session.get(Photo, photo_id, with_for_update=lock or None)
    if photo is None or photo.removed_at is not None or photo.revision_id is None:
        raise PhotoUnknownError("This photo is no longer on the contact sheet")
    if expected is not None and photo.changes != expected:
        raise ChangedMeanwhileError(CHANGED)
    return PhotoNow(photo, session.get_one(Revision, photo.revision_id))


def changing(session: Session, photo_id: int, expected: int, lock: bool = False) -> PhotoNow:
    """The photo, about to be changed: every writer goes through here, and SQLAlchemy refuses the write when
    somebody else was first. Raises PhotoUnknownError, ChangedMeanwhileError."""
    return current(session, photo_id, expected, lock)


def touched(changed: PhotoNow) -> PhotoNow:
    """Let a photo count as changed of which only something around it is: a version, say."""
    flag_modified(changed.photo, "revision_id")
    return changed
