"""Taking back what was done to many photos, all at once."""

from __future__ import annotations

from typing import Any

from sequor.operations.batches import entries
from sequor.operations.photos import PhotoUnknownError, current
from sequor.operations.reporting import Report
from sequor.operations.revising import go_to
from sequor.store.database import Store
from sequor.store.models import Batch, Photo, now

CHANGED_SINCE = "It was changed since; that was kept."


def take_back(store: Store, report: Report, batch: int) -> dict[str, Any]:
    """Let the photos of a batch be as before it; one that was changed since stays as it is, and is told.

    A redo from there leads to where they were. Once more is harmless.
    """
    with store.transaction() as session:
        done = [one for one in entries(session, batch) if one.after_id is not None]
    kept = 0
    for place, entry in enumerate(done):
        report(place / len(done), "Undoing")
        with store.transaction() as session:
            try:
                photo = current(session, entry.photo_id, lock=True)
            except PhotoUnknownError:
                continue
            mine = session.merge(entry)
            if photo.revision.id == entry.after_id:
                back = go_to(session, photo, entry.before_id, "There is nothing to undo")
                back.revision.redo_id, mine.after_id = entry.after_id, None
            elif photo.revision.id != entry.before_id:
                mine.note, kept = CHANGED_SINCE, kept + 1
    with store.transaction() as session:
        session.get_one(Batch, batch).undone_at = now()
    return {"undone": len(done) - kept, "kept": kept}


def retitle_back(store: Store, batch: int) -> int:
    """Give photos the titles back that they had before a batch; how many were named anew since, and keep
    that."""
    kept = 0
    with store.transaction() as session:
        one = session.get_one(Batch, batch, with_for_update=True)
        for entry in entries(session, batch):
            photo = session.get(Photo, entry.photo_id, with_for_update=True)
            if photo is None:
                continue
            if photo.title != entry.name:
                kept += 1
            elif entry.note is not None:
                photo.title = entry.note
        one.undone_at = now()
    return kept
