"""The contact sheet as a whole: how its photos stand, and which lie beside one."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import ColumnElement, Select, func, select
from sqlalchemy.orm import Session

from sequor.operations.photos import current
from sequor.store.database import Store
from sequor.store.models import Photo
from sequor.wording.sheet import sheet_words

DEMO_CAMERA = "IO-1"
"""The model that the demo photos name as their camera."""


@dataclass(frozen=True)
class Place:
    """Where a photo lies on the contact sheet: the photos beside it, None at the ends; its place, from 1."""

    before: int | None
    after: int | None
    place: int
    total: int


def summary(store: Store) -> tuple[str, int]:
    """How the photos stand, in words, and how many there are."""
    here = Photo.removed_at.is_(None)
    demo = here & (func.json_value(Photo.facts, "$.model") == DEMO_CAMERA)
    with store.transaction() as session:
        found = session.execute(select(Photo.state, func.count()).where(here).group_by(Photo.state))
        counts = {state or "": count for state, count in found}
        rendered = session.scalar(select(Photo.id).where(demo).limit(1)) is not None
    return sheet_words(counts, rendered), sum(counts.values())


def place_of(store: Store, photo_id: int) -> Place:
    """Where a photo lies. Raises PhotoUnknownError."""
    with store.transaction() as session:
        current(session, photo_id)
        before = session.scalar(_on_sheet().where(Photo.id < photo_id).order_by(Photo.id.desc()).limit(1))
        after = session.scalar(_on_sheet().where(Photo.id > photo_id).order_by(Photo.id).limit(1))
        return Place(before, after, 1 + _count(session, Photo.id < photo_id), _count(session))


def _on_sheet() -> Select[int]:
    return select(Photo.id).where(Photo.removed_at.is_(None))


def _count(session: Session, *which: ColumnElement[bool]) -> int:
    query = select(func.count()).select_from(Photo).where(Photo.removed_at.is_(None), *which)
    return session.scalar(query) or 0
