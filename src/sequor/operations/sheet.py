"""The contact sheet: which photos are asked for and in which order, how all of them stand, which lie beside
one. No list reads recipes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from sqlalchemy import ColumnElement, Select, and_, case, func, or_, select
from sqlalchemy.orm import InstrumentedAttribute, Session, load_only

from sequor.operations.photos import current
from sequor.store.chunks import chunks
from sequor.store.database import Store
from sequor.store.models import Batch, GroupPhoto, Photo, PhotoGroup
from sequor.wording.found import LIKELY, SURE
from sequor.wording.sheet import sheet_words
from sequor.wording.words import UNREADABLE

DEMO_CAMERA = "IO-1"
"""The model that the demo photos name as their camera."""

SHEET_PAGE = 200
"""Photos that the contact sheet is given at a time."""

MOST_CHOICES = 200
"""Cameras, lenses or ratios that can be chosen from."""

Order = Literal["came", "taken", "title", "camera", "confidence"]
Stand = Literal["sure", "eyes", "corrected", "left"]
Sureness = Literal["sure", "likely", "unsure", "not looked"]

ORDERS: dict[Order, tuple[InstrumentedAttribute[Any] | None, str]] = {
    "came": (None, "sheet_came"),
    "taken": (Photo.taken_at, "sheet_taken"),
    "title": (Photo.title, "sheet_title"),
    "camera": (Photo.camera, "sheet_camera"),
    "confidence": (Photo.confidence, "sheet_confidence"),
}
"""What is sorted by, before the photos' numbers, and the index that has them in that order."""

TOLD = (
    Photo.sha256,
    Photo.title,
    Photo.file_name,
    Photo.width,
    Photo.height,
    Photo.format,
    Photo.facts,
    Photo.imported_at,
    Photo.changes,
    Photo.revision_id,
    Photo.state,
    Photo.ratio,
    Photo.shown_width,
    Photo.shown_height,
    Photo.version_names,
    Photo.readable_id,
    Photo.taken_at,
    Photo.camera,
    Photo.lens,
    Photo.confidence,
    Photo.found_roll,
    Photo.aside,
    Photo.exported_id,
)
"""What the cards tell."""

ON_SHEET = Photo.shown == 1
NOT_MEASURED, DISAGREE = "not measured", "lines disagree"
PENDING = and_(Photo.state == NOT_MEASURED, Photo.aside.is_(False))
"""Photos on which a proposal can still be taken."""


def is_pending(photo: Photo) -> bool:
    """The same of one photo."""
    return photo.state == NOT_MEASURED and not photo.aside


STANDS: dict[Stand, ColumnElement[bool]] = {
    "sure": and_(PENDING, Photo.confidence >= SURE),
    "eyes": or_(
        and_(PENDING, Photo.confidence >= 0, Photo.confidence < SURE),
        and_(Photo.state == DISAGREE, Photo.aside.is_(False)),
    ),
    "corrected": Photo.state.not_in((NOT_MEASURED, DISAGREE, UNREADABLE)),
    "left": and_(Photo.state.in_((NOT_MEASURED, DISAGREE)), Photo.aside.is_(True)),
}
"""How photos stand: with a proposal that is sure, wanting a pair of eyes, done, left as they were taken."""

SURENESS: dict[Sureness, ColumnElement[bool]] = {
    "sure": Photo.confidence >= SURE,
    "likely": and_(Photo.confidence >= LIKELY, Photo.confidence < SURE),
    "unsure": and_(Photo.confidence >= 0, Photo.confidence < LIKELY),
    "not looked": Photo.confidence < 0,
}


@dataclass(frozen=True)
class Wanted:
    """Which photos are asked for; None: all. ``brought``: the import they came with; ``exported``: whether
    they were written as they are now; ``find``: in their titles."""

    stand: Stand | None = None
    state: str | None = None
    sureness: Sureness | None = None
    camera: str | None = None
    lens: str | None = None
    ratio: str | None = None
    brought: int | None = None
    group: int | None = None
    exported: bool | None = None
    find: str | None = None

    def conditions(self) -> list[ColumnElement[bool]]:
        """The same for a query."""
        found: list[ColumnElement[bool]] = [ON_SHEET]
        for column, value in (
            (Photo.state, self.state),
            (Photo.camera, self.camera),
            (Photo.lens, self.lens),
            (Photo.ratio, self.ratio),
            (Photo.import_id, self.brought),
        ):
            if value is not None:
                found.append(column == value)
        if self.stand is not None:
            found.append(STANDS[self.stand])
        if self.sureness is not None:
            found.append(SURENESS[self.sureness])
        if self.group is not None:
            found.append(Photo.id.in_(select(GroupPhoto.photo_id).where(GroupPhoto.group_id == self.group)))
        if self.exported is not None:
            written = and_(Photo.exported_id.is_not(None), Photo.exported_id == Photo.revision_id)
            found.append(written if self.exported else ~func.coalesce(written, False))
        if self.find:
            found.append(Photo.title.contains(self.find, autoescape=True))
        return found


ALL = Wanted()


@dataclass(frozen=True)
class Sorting:
    """The order of the photos; ``down``: the last first."""

    by: Order = "came"
    down: bool = False

    def key(self, photo: Photo) -> list[Any]:
        """Where a photo lies in this order."""
        column, _ = ORDERS[self.by]
        return [photo.id] if column is None else [getattr(photo, column.key), photo.id]

    def behind(self, key: Sequence[Any], before: bool = False) -> ColumnElement[bool]:
        """Photos behind a place, or before it. Written so that the database finds it by the index."""
        column, _ = ORDERS[self.by]
        up = self.down == before
        beyond: ColumnElement[bool] = Photo.id > key[-1] if up else Photo.id < key[-1]
        if column is None:
            return beyond
        outer, inner = (column >= key[0], column > key[0]) if up else (column <= key[0], column < key[0])
        behind: ColumnElement[bool] = and_(outer, or_(inner, beyond))
        return behind

    def order(self, query: Select[Any], before: bool = False) -> Select[Any]:
        """A query in this order, or the other way round."""
        column, _ = ORDERS[self.by]
        columns = [Photo.id] if column is None else [column, Photo.id]
        return query.order_by(*(one if self.down == before else one.desc() for one in columns))

    def indexed(self, query: Select[Any], wanted: Wanted) -> Select[Any]:
        """A query that goes along the order's index, where that leads to the photos."""
        if wanted != ALL:
            return query
        return query.with_hint(Photo, f"FORCE INDEX ({ORDERS[self.by][1]})")


AS_THEY_CAME = Sorting()


@dataclass(frozen=True)
class Place:
    """Where a photo lies on the contact sheet: the photos beside it, None at the ends; its place, from 1."""

    before: int | None
    after: int | None
    place: int
    total: int


@dataclass(frozen=True)
class Summary:
    """All photos together, in words; how many there are, how many are ``asked`` for, and how many stand
    how."""

    words: str
    total: int
    asked: int
    stands: dict[Stand, int]


@dataclass(frozen=True)
class Choices:
    """What the photos of the sheet can be chosen by, each with how many there are."""

    states: list[tuple[str, int]]
    cameras: list[tuple[str, int]]
    lenses: list[tuple[str, int]]
    ratios: list[tuple[str, int]]
    imports: list[tuple[int, str, int]]
    groups: list[tuple[int, str, int]]


def list_photos(
    store: Store,
    wanted: Wanted = ALL,
    sorting: Sorting = AS_THEY_CAME,
    after: Sequence[Any] | None = None,
    limit: int = SHEET_PAGE,
) -> list[Photo]:
    """Photos as they are asked for, from the one behind a place on: what their cards tell."""
    query = select(Photo).options(load_only(*TOLD)).where(*wanted.conditions())
    if after is not None:
        query = query.where(sorting.behind(after))
    query = sorting.indexed(sorting.order(query).limit(limit), wanted)
    with store.transaction() as session:
        return list(session.scalars(query))


def rows_of(session: Session, photos: Sequence[int], lock: bool = False) -> list[Photo]:
    """The rows of photos that are on the sheet, in the order they are named in."""
    found: dict[int, Photo] = {}
    for some in chunks(photos):
        query = select(Photo).where(ON_SHEET, Photo.id.in_(some))
        found |= {photo.id: photo for photo in session.scalars(query.with_for_update() if lock else query)}
    return [found[number] for number in dict.fromkeys(photos) if number in found]


def numbers(store: Store, wanted: Wanted, sorting: Sorting) -> list[int]:
    """The numbers of all photos that are asked for, in their order."""
    query = sorting.indexed(sorting.order(select(Photo.id).where(*wanted.conditions())), wanted)
    with store.transaction() as session:
        return list(session.scalars(query))


def summary(store: Store, wanted: Wanted = ALL) -> Summary:
    """How the photos stand, and how many are asked for."""
    demo = ON_SHEET & (Photo.camera.endswith(DEMO_CAMERA))
    standing = select(Photo.state, func.count(), *map(how_many, STANDS.values()))
    with store.transaction() as session:
        rows = session.execute(standing.where(ON_SHEET).group_by(Photo.state)).all()
        rendered = session.scalar(select(Photo.id).where(demo).limit(1)) is not None
        asked = None if wanted == ALL else _count(session, *wanted.conditions())
    counts = {state or "": count for state, count, *_ in rows}
    by_state = {state: dict(zip(STANDS, many, strict=True)) for state, _, *many in rows}
    stands = {stand: sum(many[stand] for many in by_state.values()) for stand in STANDS}
    total = sum(counts.values())
    # Lines that disagree are told by themselves.
    eyes = by_state.get(NOT_MEASURED, {}).get("eyes", 0)
    words = sheet_words(counts, rendered, stands["sure"], eyes)
    return Summary(words, total, total if asked is None else asked, stands)


def how_many(which: ColumnElement[bool]) -> ColumnElement[int]:
    """How many of the rows that a query counts are so."""
    return func.count(case((which, 1)))


def choices(store: Store) -> Choices:
    """What the photos can be chosen by."""
    with store.transaction() as session:

        def of(column: InstrumentedAttribute[Any]) -> list[tuple[str, int]]:
            query = select(column, func.count()).where(ON_SHEET).group_by(column).order_by(column)
            rows = session.execute(query.limit(MOST_CHOICES)).all()
            return [(value, count) for value, count in rows if value]

        brought = (
            select(Batch.id, Batch.label, func.count())
            .join(Photo, Photo.import_id == Batch.id)
            .where(ON_SHEET)
            .group_by(Batch.id, Batch.label)
            .order_by(Batch.id.desc())
            .limit(MOST_CHOICES)
        )
        grouped = (
            select(PhotoGroup.id, PhotoGroup.name, func.count(Photo.id))
            .outerjoin(GroupPhoto, GroupPhoto.group_id == PhotoGroup.id)
            .outerjoin(Photo, and_(Photo.id == GroupPhoto.photo_id, ON_SHEET))
            .group_by(PhotoGroup.id, PhotoGroup.name)
            .order_by(PhotoGroup.name)
        )
        return Choices(
            states=of(Photo.state),
            cameras=of(Photo.camera),
            lenses=of(Photo.lens),
            ratios=of(Photo.ratio),
            imports=[(number, label, count) for number, label, count in session.execute(brought)],
            groups=[(number, name, count) for number, name, count in session.execute(grouped)],
        )


def place_of(store: Store, photo_id: int, wanted: Wanted = ALL, sorting: Sorting = AS_THEY_CAME) -> Place:
    """Where a photo lies among those that are asked for. Raises PhotoUnknownError."""
    conditions = wanted.conditions()
    with store.transaction() as session:
        key = sorting.key(current(session, photo_id).photo)

        def beside(before: bool) -> int | None:
            query = select(Photo.id).where(*conditions, sorting.behind(key, before))
            found: int | None = session.scalar(sorting.indexed(sorting.order(query, before), wanted).limit(1))
            return found

        ahead = _count(session, *conditions, sorting.behind(key, before=True))
        return Place(beside(True), beside(False), 1 + ahead, _count(session, *conditions))


def _count(session: Session, *which: ColumnElement[bool]) -> int:
    return session.scalar(select(func.count()).select_from(Photo).where(*which)) or 0
