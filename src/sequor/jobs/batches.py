"""Actions on many photos: a batch, a job for each of its photos, and how far all of them are."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from sqlalchemy import func, insert, select, update
from sqlalchemy.orm import Session, aliased

from sequor.operations.accounts import refuse_too_much
from sequor.operations.carrying import Part
from sequor.operations.photos import PhotoUnknownError
from sequor.operations.proposals import Reach
from sequor.operations.series import What, series_of, settings_of
from sequor.operations.sheet import rows_of
from sequor.operations.telling import UNFINISHED
from sequor.recipe.model.export import ExportPart
from sequor.store.again import begun_again
from sequor.store.chunks import chunks
from sequor.store.database import Store
from sequor.store.models import Batch, BatchPhoto, Job, Photo, WorkState, now
from sequor.store.room import RESERVE, refuse_without_room

from . import writing
from .asking import Asked, Bell, WorkQueue, ask, begin_anew, hash_of, ring
from .background import BackgroundGoneError
from .folders import forget, is_there, received
from .looks import looking

MOST_PHOTOS = 20_000
"""Photos that work is begun for at once."""
MOST_TOLD = 200
"""Photos that a batch tells of by name."""


class BatchUnknownError(LookupError):
    """There is no such batch."""


class TooManyPhotosError(Exception):
    """More photos than work is begun for at once."""


class NothingUndoneError(Exception):
    """A batch that cannot be taken back."""


@dataclass(frozen=True)
class Entry:
    """A photo of a batch: what is asked for it, and the name of the file that is written."""

    photo_id: int
    asked: Asked
    name: str = ""


@dataclass(frozen=True)
class Written:
    """A file that was written for a batch, by its name."""

    store: Store
    name: str
    job: str

    @property
    def kept(self) -> bool:
        """Whether it is still there. Raises OSError."""
        return is_there(self.store, self.job, "export")

    @property
    def file(self) -> Path:
        """Where it lies. Raises OSError."""
        return received(self.store, self.job, "export")


@dataclass(frozen=True)
class Told:
    """What is told of one photo of a batch: that it failed, or why it is as it was."""

    photo_id: int
    name: str
    words: str
    failed: bool


@dataclass(frozen=True)
class Standing:
    """How far a batch is: how many of its photos are in each state, how many were changed by it, and what is
    to be told of single ones."""

    batch: Batch
    states: dict[WorkState, int]
    changed: int
    told: list[Told] = field(default_factory=list)

    @property
    def total(self) -> int:
        """Of how many photos."""
        return sum(self.states.values())

    @property
    def working(self) -> bool:
        """Whether something is still to be done."""
        return any(self.states.get(state) for state in UNFINISHED)


class Batches:
    """Begins batches, and knows how far they are; ``exports``: the folder that exports may be put into."""

    def __init__(self, store: Store, queue: WorkQueue, exports: Path | None) -> None:
        self._store, self._queue, self.exports = store, queue, exports

    def begin_import(self, label: str) -> Batch:
        """A stack of files that come together."""
        with self._store.transaction() as session:
            batch = Batch(kind="import", label=label[:200], settings={})
            session.add(batch)
            session.flush()
            return batch

    @begun_again
    def look(self, photos: Sequence[int]) -> Batch:
        """Look at photos again. Raises TooManyPhotosError."""
        with self._begun("look", photos, {}) as (session, batch):
            entries = [Entry(row.id, looking(row, anew=True)) for row in rows_of(session, photos)]
            jobs = self._put(session, batch, entries, again=True)
        return self._rung(batch, jobs)

    @begun_again
    def take(self, photos: Sequence[int], reach: Reach, least: float) -> Batch:
        """Take the proposals on photos where they are sure enough. Raises TooManyPhotosError."""
        chosen = {"reach": reach, "least": least}
        with self._begun("take", photos, chosen) as (session, batch):
            jobs = self._put(session, batch, self._changes(session, batch, photos, chosen))
        return self._rung(batch, jobs)

    @begun_again
    def carry(self, source: int, photos: Sequence[int], parts: Sequence[Part]) -> Batch:
        """Carry over from one photo to others. Raises PhotoUnknownError, TooManyPhotosError."""
        with self._begun("carry", photos, {"source": source, "parts": list(parts)}) as (session, batch):
            photo = session.get(Photo, source)
            if photo is None or not photo.shown:
                raise PhotoUnknownError("The photo to carry over from is no longer on the contact sheet")
            chosen = {"source": source, "revision": photo.revision_id, "parts": list(parts)}
            others = [one for one in photos if one != source]
            jobs = self._put(session, batch, self._changes(session, batch, others, chosen))
        return self._rung(batch, jobs)

    @begun_again
    def share(self, photos: Sequence[int], what: What) -> Batch:
        """Solve photos together that share how the camera was held, or its lens. Raises SeriesRefusedError
        when they do not, PhotoUnknownError."""
        chosen = settings_of(series_of(self._store, photos, what), what)
        with self._begun("series", photos, chosen) as (session, batch):
            jobs = self._put(session, batch, self._changes(session, batch, photos, chosen))
        return self._rung(batch, jobs)

    @begun_again
    def export(
        self,
        photos: Sequence[int],
        settings: ExportPart,
        versions: bool = False,
        into_folder: bool = False,
    ) -> Batch:
        """Write many files with one sheet of settings, to be fetched as one ZIP file or put into the folder
        that was named at the start; ``versions``: the named ones too.

        Raises NoRoomError, TooManyPhotosError.
        """
        folder = self.exports if into_folder else None
        chosen = {
            "export": settings.model_dump(mode="json"),
            "folder": None if folder is None else str(folder),
        }
        with self._begun("export", photos, chosen) as (session, batch):
            asked = writing.asked(session, batch.id, rows_of(session, photos), settings, versions, folder)
            refuse_without_room(folder or self._store.folder, sum(one.room for one in asked), RESERVE)
            entries = [Entry(one.photo_id, one.asked, one.name) for one in asked]
            jobs = self._put(session, batch, entries)
        return self._rung(batch, jobs)

    def standing(self, number: int) -> Standing:
        """How far a batch is. Raises BatchUnknownError."""
        job = aliased(Job)
        with self._store.transaction() as session:
            batch = self._batch(session, number)
            of = BatchPhoto.batch_id == number
            counts = select(job.state, func.count()).join(BatchPhoto, BatchPhoto.job_id == job.id)
            states = dict(session.execute(counts.where(of).group_by(job.state)).all())
            changed = session.scalar(
                select(func.count()).select_from(BatchPhoto).where(of, BatchPhoto.after_id.is_not(None))
            )
            query = (
                select(BatchPhoto.photo_id, Photo.title, BatchPhoto.name, BatchPhoto.note, job.error)
                .join(Photo, Photo.id == BatchPhoto.photo_id)
                .outerjoin(job, job.id == BatchPhoto.job_id)
                .where(of, BatchPhoto.note.is_not(None) | (job.state == "failed"))
                .order_by(BatchPhoto.number)
            )
            rows = [] if batch.kind == "title" else session.execute(query.limit(MOST_TOLD)).all()
            if batch.kind == "title":
                # Titles are given at once, without jobs.
                given = session.scalar(select(func.count()).select_from(BatchPhoto).where(of))
                states = {"done": given or 0}
            told = [
                Told(photo, name or title, error or note or "", error is not None)
                for photo, title, name, note, error in rows
            ]
        return Standing(batch, states, changed or 0, told)

    def open(self) -> list[Standing]:
        """Batches that are not done yet, the newest first."""
        going = (
            select(BatchPhoto.batch_id)
            .join(Job, Job.id == BatchPhoto.job_id)
            .where(Job.state.in_(UNFINISHED))
            .distinct()
        )
        with self._store.transaction() as session:
            query = select(Batch.id).where(Batch.id.in_(going), Batch.cancelled_at.is_(None))
            numbers = list(session.scalars(query.order_by(Batch.id.desc())))
        return [self.standing(number) for number in numbers]

    def last_changing(self) -> Batch | None:
        """The newest batch that has changed photos and was not taken back."""
        query = select(Batch).where(Batch.kind.in_((*CHANGES, "title")), Batch.undone_at.is_(None))
        with self._store.transaction() as session:
            return session.scalar(query.order_by(Batch.id.desc()).limit(1))

    @begun_again
    def cancel(self, number: int) -> None:
        """Stop what is not done yet of a batch; what another one wants too goes on. Raises
        BatchUnknownError."""
        with self._store.transaction() as session:
            self._batch(session, number).cancelled_at = now()
            session.flush()
            wanted = (
                select(BatchPhoto.job_id)
                .join(Batch, Batch.id == BatchPhoto.batch_id)
                .where(BatchPhoto.job_id == Job.id, Batch.id != number, Batch.cancelled_at.is_(None))
                .exists()
            )
            mine = select(BatchPhoto.job_id).where(BatchPhoto.batch_id == number)
            stopped = session.execute(
                select(Job.id, Job.state)
                .where(Job.id.in_(mine), Job.state.in_(UNFINISHED), ~wanted)
                .with_for_update()
            ).all()
            for some in chunks([name for name, _ in stopped]):
                ended = {"state": "cancelled", "words": "Cancelled", "ended_at": now(), "owner": None}
                session.execute(update(Job).where(Job.id.in_(some)).values(**ended))
        for name, state in stopped:
            if state == "running":
                self._queue.break_off(name)
            forget(self._store, name)

    @begun_again
    def retry(self, number: int) -> None:
        """Begin anew what failed or was cancelled of a batch. Raises BatchUnknownError."""
        with self._store.transaction() as session:
            self._batch(session, number).cancelled_at = None
            query = select(Job).join(BatchPhoto, BatchPhoto.job_id == Job.id)
            ended = Job.state.in_(("failed", "cancelled"))
            jobs = list(session.scalars(query.where(BatchPhoto.batch_id == number, ended).with_for_update()))
            refuse_too_much(session, len(jobs))
            for job in jobs:
                begin_anew(job)
            bells = [Bell(job.id, job.kind, job.lane) for job in jobs]
        self._ring(bells)

    def undo(self, number: int) -> None:
        """Take a batch back: what is not done yet is not done any more, what was changed is as before.

        Raises BatchUnknownError, NothingUndoneError.
        """
        self.cancel(number)
        with self._store.transaction() as session:
            batch = self._batch(session, number)
            if batch.kind not in CHANGES:
                raise NothingUndoneError("This cannot be undone as a whole")
            wanted = [Asked("undo", f"Undo: {batch.label}", {"batch": number}, hash_of("undo", number))]
            ((bell, _),) = ask(session, wanted)
            job = session.get_one(Job, bell.name)
            if job.state == "done":
                begin_anew(job)
        self._ring([bell])

    def undoing(self, number: int) -> Job | None:
        """The job that takes a batch back, if that was asked for."""
        with self._store.transaction() as session:
            return session.scalar(select(Job).where(Job.made_of == hash_of("undo", number)))

    def files(self, number: int) -> list[Written]:
        """The files that were written for a batch. Raises BatchUnknownError."""
        with self._store.transaction() as session:
            self._batch(session, number)
            query = select(BatchPhoto.name, Job.id).join(Job, Job.id == BatchPhoto.job_id)
            rows = session.execute(
                query.where(BatchPhoto.batch_id == number, Job.state == "done").order_by(BatchPhoto.number)
            ).all()
        return [Written(self._store, name, job) for name, job in rows]

    @contextlib.contextmanager
    def _begun(
        self, kind: str, photos: Sequence[int], chosen: Mapping[str, Any]
    ) -> Iterator[tuple[Session, Batch]]:
        if len(photos) > MOST_PHOTOS:
            raise TooManyPhotosError(
                f"These are {len(photos):,} photos; choose {MOST_PHOTOS:,} or fewer. Nothing was begun"
            )
        with self._store.transaction() as session:
            batch = Batch(kind=kind, label=LABELS[kind], settings=dict(chosen))
            session.add(batch)
            session.flush()
            yield session, batch

    def _changes(
        self, session: Session, batch: Batch, photos: Sequence[int], chosen: Mapping[str, Any]
    ) -> list[Entry]:
        of: Mapping[str, Any] = {"batch": batch.id, **chosen}
        rows = enumerate(rows_of(session, photos))
        return [
            Entry(row.id, Asked(batch.kind, row.title, {"photo_id": row.id, "number": number, **of}))
            for number, row in rows
        ]

    def _put(self, session: Session, batch: Batch, entries: list[Entry], again: bool = False) -> list[Bell]:
        """Put down the photos of a batch with their jobs; those that are to be rung for. ``again``: also
        those that were done before."""
        if not entries:
            return []
        refuse_too_much(session, len(entries))
        asked = ask(session, [entry.asked for entry in entries])
        done = self._gone(session, [bell for bell, new in asked if not new], again)
        rows = []
        for number, (entry, (bell, _)) in enumerate(zip(entries, asked, strict=True)):
            row = {"batch_id": batch.id, "number": number, "photo_id": entry.photo_id}
            rows.append({**row, "job_id": bell.name, "name": entry.name})
        for some in chunks(rows):
            session.execute(insert(BatchPhoto), some)
        return [bell for bell, new in asked if new or bell.name in done]

    def _gone(self, session: Session, there: list[Bell], again: bool) -> set[str]:
        """Of jobs that are done already, those that have to be done again: their file is not there any
        more."""
        begun = set()
        for names in chunks([bell.name for bell in there]):
            query = select(Job).where(Job.id.in_(names), Job.state == "done").with_for_update()
            for job in session.scalars(query):
                kept = job.kind != "write" or is_there(self._store, job.id, "export")
                if again or not kept:
                    job.spec = {**job.spec, **({"anew": True} if again else {})}
                    begin_anew(job)
                    begun.add(job.id)
        return begun

    def _rung(self, batch: Batch, jobs: list[Bell]) -> Batch:
        self._ring(jobs)
        return batch

    def _ring(self, jobs: list[Bell]) -> None:
        with contextlib.suppress(BackgroundGoneError):
            ring(self._queue, jobs)

    @staticmethod
    def _batch(session: Session, number: int) -> Batch:
        batch = session.get(Batch, number)
        if batch is None:
            raise BatchUnknownError("This is no longer known")
        return batch


CHANGES = ("take", "carry", "series")
"""Kinds of batches that give photos new revisions."""

LABELS = {
    "series": "Solved together",
    "look": "Looked at again",
    "take": "Took the proposals",
    "carry": "Carried over",
    "export": "Exported",
}
"""What batches are called."""
