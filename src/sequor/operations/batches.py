"""Photos of a batch: each is changed by itself, with a revision of its own, and the batch remembers which."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.operations.photos import PhotoNow, get_photo
from sequor.operations.revising import Kept, add
from sequor.store.database import ChangedMeanwhileError, Store
from sequor.store.models import BatchPhoto, Revision

TRIES = 5
"""So often at most a photo is looked at again that somebody changes at the same time."""


class LeftError(Exception):
    """A photo of a batch that is left as it is, and why."""


def change(
    store: Store, batch: int, number: int, photo_id: int, after: Callable[[PhotoNow], tuple[Kept, str | None]]
) -> dict[str, Any]:
    """Change a photo as part of a batch: ``after`` tells the recipe and action, and what is to be noted; it
    raises LeftError for a photo that stays as it is. What was done already is not done again.

    Raises PhotoUnknownError, RecipeError, ChangedMeanwhileError.
    """
    for again in range(TRIES):
        with store.transaction() as session:
            if _entry(session, batch, number).after_id is not None:
                return {"changed": True}
        now = get_photo(store, photo_id)
        try:
            kept, note = after(now)
        except LeftError as why:
            _note(store, batch, number, str(why))
            return {"changed": False}

        def along(session: Session, revision: Revision, before: int = now.revision.id) -> None:
            entry = _entry(session, batch, number)
            entry.before_id, entry.after_id, entry.note = before, revision.id, note  # noqa: B023

        try:
            add(store, photo_id, now.photo.changes, lambda _: kept, along)  # noqa: B023
        except ChangedMeanwhileError:
            if again == TRIES - 1:
                raise
            continue
        return {"changed": True}
    raise AssertionError


def _entry(session: Session, batch: int, number: int) -> BatchPhoto:
    return session.get_one(BatchPhoto, (batch, number))


def _note(store: Store, batch: int, number: int, words: str) -> None:
    with store.transaction() as session:
        _entry(session, batch, number).note = words


def entries(session: Session, batch: int) -> list[BatchPhoto]:
    """The photos of a batch, in their order."""
    query = select(BatchPhoto).where(BatchPhoto.batch_id == batch).order_by(BatchPhoto.number)
    return list(session.scalars(query))
