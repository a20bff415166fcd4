"""The log of a photo: everything that was done to it."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import Row, select
from sqlalchemy.orm import Session

from sequor.operations.photos import PhotoNow, PhotoUnknownError, current, recipe_of
from sequor.recipe.model import Recipe
from sequor.store.database import Store
from sequor.store.models import Photo, Revision

LOG_PAGE = 200
"""Entries of the log that are given at a time."""


def list_revisions(
    store: Store, photo_id: int, before: int | None = None, limit: int = LOG_PAGE
) -> Sequence[Row[int, int, str, datetime]]:
    """Number, place, words and time of what was done, the newest first, from the one before a number on;
    without recipes. Raises PhotoUnknownError."""
    columns = (Revision.id, Revision.number, Revision.action, Revision.created_at.label("at"))
    query = select(*columns).where(Revision.photo_id == photo_id)
    if before is not None:
        query = query.where(Revision.id < before)
    with store.transaction() as session:
        current(session, photo_id)
        return session.execute(query.order_by(Revision.id.desc()).limit(limit)).all()


def get_revision(store: Store, photo_id: int, revision_id: int) -> Recipe:
    """The recipe of one revision of a photo. Raises PhotoUnknownError, UnreadableStateError."""
    with store.transaction() as session:
        current(session, photo_id)
        return recipe_of(revision_in(session, photo_id, revision_id))


def as_it_was(store: Store, photo_id: int, revision_id: int) -> PhotoNow:
    """A photo at one of its revisions, for its picture. Also one that was removed: its card may still be
    loading, and a removal can be undone. Raises PhotoUnknownError."""
    with store.transaction() as session:
        revision = revision_in(session, photo_id, revision_id)
        return PhotoNow(session.get_one(Photo, photo_id), revision)


def imported_recipe(store: Store, photo_id: int) -> Recipe:
    """The recipe that a photo was imported with. Raises PhotoUnknownError, UnreadableStateError."""
    query = select(Revision).where(Revision.photo_id == photo_id).order_by(Revision.id).limit(1)
    with store.transaction() as session:
        current(session, photo_id)
        return recipe_of(session.scalars(query).one())


def revision_in(session: Session, photo_id: int, revision_id: int) -> Revision:
    """One revision of a photo. Raises PhotoUnknownError."""
    revision = session.get(Revision, revision_id)
    if revision is None or revision.photo_id != photo_id:
        raise PhotoUnknownError(f"the photo has no revision {revision_id}")
    return revision
