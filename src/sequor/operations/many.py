"""What is done to many photos at once in their rows: removed, restored, given titles, put aside."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import CursorResult, select, update

from sequor.operations.export_names import about, filled_in
from sequor.operations.sheet import rows_of
from sequor.store.chunks import chunks
from sequor.store.database import Store
from sequor.store.models import Batch, BatchPhoto, Photo, now


def remove_all(store: Store, photos: Sequence[int]) -> list[int]:
    """Take photos off the contact sheet; their originals and history stay. Those that were on it."""
    removed: list[int] = []
    with store.transaction() as session:
        for some in chunks(photos):
            here = Photo.id.in_(some), Photo.removed_at.is_(None)
            there = list(session.scalars(select(Photo.id).where(*here).with_for_update()))
            removed += there
            gone = update(Photo).where(Photo.id.in_(there))
            session.execute(gone.values(removed_at=now(), changes=Photo.changes + 1))
    return removed


def restore_all(store: Store, photos: Sequence[int]) -> int:
    """Undo removals; how many there were."""
    count = 0
    with store.transaction() as session:
        for some in chunks(photos):
            back = update(Photo).where(Photo.id.in_(some), Photo.removed_at.is_not(None))
            done = session.execute(back.values(removed_at=None, changes=Photo.changes + 1))
            assert isinstance(done, CursorResult)
            count += done.rowcount
    return count


def put_aside(store: Store, photos: Sequence[int], aside: bool) -> None:
    """Leave photos as they were taken, or ask for them again."""
    with store.transaction() as session:
        for some in chunks(photos):
            session.execute(update(Photo).where(Photo.id.in_(some)).values(aside=aside))


def titles_of(photos: Sequence[Photo], pattern: str) -> list[str]:
    """The titles that a pattern gives to photos; ``{n}`` counts with as many digits as the last needs."""
    digits = len(str(len(photos)))
    found = []
    for number, photo in enumerate(photos, 1):
        of = about(photo)
        stem = of.file_name.rsplit(".", 1)[0]
        values = {"file": stem, "title": photo.title, "date": of.date, "n": f"{number:0{digits}}"}
        found.append(filled_in(pattern, values)[:200])
    return found


def give_titles(store: Store, photos: Sequence[int], pattern: str) -> Batch:
    """Give photos titles by a pattern, in the order they are named in; what they were called is kept with the
    batch, for taking it back."""
    with store.transaction() as session:
        batch = Batch(kind="title", label=f"Titles: {pattern}"[:200], settings={"pattern": pattern})
        session.add(batch)
        session.flush()
        wanted = rows_of(session, photos, lock=True)
        for number, (photo, title) in enumerate(zip(wanted, titles_of(wanted, pattern), strict=True)):
            entry = BatchPhoto(
                batch_id=batch.id, number=number, photo_id=photo.id, name=title, note=photo.title
            )
            session.add(entry)
            photo.title = title
        return batch
