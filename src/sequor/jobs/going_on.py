"""What is going on: the work in each lane, the workers and what they say, whether all services answer, and
how much room is used."""

from __future__ import annotations

import os
import secrets
import shutil
import threading
import time
from collections import Counter
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

from sqlalchemy import func, select, text
from sqlalchemy.exc import SQLAlchemyError

from sequor.operations.telling import UNFINISHED
from sequor.store.database import Store
from sequor.store.models import Job, Photo, Take, now
from sequor.store.owners import acting

from .asking import WorkQueue
from .background import WORKERS, BackgroundGoneError

TAKES = "takes"
LANES = tuple(dict.fromkeys(lane for worker in WORKERS.values() for lane in worker.lanes))

LATELY = timedelta(days=1)
"""For so long a job that failed is counted,"""
LAST_HOUR = timedelta(hours=1)
"""and for so long the times of jobs are."""

ASKED_AGAIN_SECONDS = 4.0
COUNTED_AGAIN_SECONDS = 60.0
"""Workers are not asked, and files are not counted, more often than this, whoever looks."""


@dataclass(frozen=True)
class Lane:
    """The work in one lane; ``since``: when the first of those that wait was asked for."""

    name: str
    waiting: int
    running: int
    failed: int
    since: datetime | None


@dataclass(frozen=True)
class WorkerNow:
    """One worker: how much it is doing, and when it last said so; None: not since the program was started."""

    name: str
    doing: int
    said_at: datetime | None


@dataclass(frozen=True)
class Service:
    """Whether a service answers, and within how many seconds."""

    name: str
    answers: bool
    seconds: float


@dataclass(frozen=True)
class Ended:
    """Jobs of a kind that ended in a state within the last hour, and how many seconds they took in all."""

    kind: str
    state: str
    count: int
    seconds: float


@dataclass(frozen=True)
class Used:
    """Bytes in a folder of the data folder."""

    name: str
    bytes: int


class GoingOn:
    """Tells of one installation; each question may be asked by many at once."""

    def __init__(self, store: Store, queue: WorkQueue) -> None:
        self._store, self._queue = store, queue
        self._lock = threading.Lock()
        self._asked = self._counted = -COUNTED_AGAIN_SECONDS
        # Where several machines share the work, their workers are those that say something.
        own = WORKERS if store.objects is None else ()
        self._workers = {name: WorkerNow(name, 0, None) for name in own}
        self._used: list[Used] = []

    def lanes(self) -> list[Lane]:
        """All lanes, those without work too. Raises SQLAlchemyError."""
        failed = (Job.state == "failed") & (Job.ended_at > now() - LATELY)
        work = select(Job.lane, Job.state, func.count(), func.min(Job.asked_at)).where(
            Job.state.in_(UNFINISHED) | failed
        )
        takes = select(Take.state, func.count(), func.min(Take.created_at)).where(Take.state.in_(UNFINISHED))
        if acting() is not None:
            takes = takes.join(Photo, Photo.id == Take.photo_id)
        many = Counter[tuple[str, str]]()
        first: dict[str, datetime] = {}
        with self._store.transaction() as session:
            rows = [*session.execute(work.group_by(Job.lane, Job.state))]
            found = [(lane, state, count, since) for lane, state, count, since in rows]
            found += [(TAKES, *row) for row in session.execute(takes.group_by(Take.state))]
        for lane, state, count, since in found:
            many[lane, state] = count
            if state == "waiting":
                first[lane] = since
        return [
            Lane(name, many[name, "waiting"], many[name, "running"], many[name, "failed"], first.get(name))
            for name in dict.fromkeys((*LANES, *(lane for lane, _ in many)))
        ]

    def workers(self) -> list[WorkerNow]:
        """All workers that this program starts, and others that say something."""
        with self._lock:
            if time.monotonic() - self._asked >= ASKED_AGAIN_SECONDS:
                said: dict[str, int] = {}
                with suppress(BackgroundGoneError):
                    said = self._queue.at_work()
                for name, doing in said.items():
                    self._workers[name] = WorkerNow(name, doing, now())
                self._asked = time.monotonic()
            return list(self._workers.values())

    def services(self) -> list[Service]:
        """Whether the database, the queue, the data folder and what is shared instead of it answer."""
        objects = self._store.objects
        return [
            _timed("database", self._database),
            _timed("queue", self._queue.waiting),
            _timed("files", lambda: _written(self._store.work)),
            *([] if objects is None else [_timed("objects", lambda: objects.size("sequor"))]),
        ]

    def ended(self) -> list[Ended]:
        """What ended within the last hour. Raises SQLAlchemyError."""
        took = func.timestampdiff(text("MICROSECOND"), Job.begun_at, Job.ended_at)
        query = select(Job.kind, Job.state, func.count(), func.coalesce(func.sum(took), 0))
        query = query.where(Job.ended_at > now() - LAST_HOUR).group_by(Job.kind, Job.state)
        with self._store.transaction() as session:
            return [
                Ended(kind, state, count, float(micro) / 1e6)
                for kind, state, count, micro in session.execute(query)
            ]

    def used(self) -> list[Used]:
        """The room that each folder of the data folder takes, as of a minute ago at most."""
        with self._lock:
            if time.monotonic() - self._counted >= COUNTED_AGAIN_SECONDS:
                folders = sorted(one for one in self._store.folder.iterdir() if one.is_dir())
                self._used = [Used(one.name, size_of(one)) for one in folders]
                self._counted = time.monotonic()
            return self._used

    @property
    def free(self) -> int:
        """Bytes that are free on the disk of the data folder. Raises OSError."""
        return shutil.disk_usage(self._store.folder).free

    def _database(self) -> None:
        with self._store.engine.connect() as connection:
            connection.execute(text("SELECT 1"))


def size_of(folder: Path) -> int:
    """The bytes of all files below a folder; what is removed meanwhile or may not be read counts nothing."""
    total, left = 0, [os.fspath(folder)]
    while left:
        with suppress(OSError), os.scandir(left.pop()) as entries:
            for entry in entries:
                with suppress(OSError):
                    if entry.is_dir(follow_symlinks=False):
                        left.append(entry.path)
                    elif entry.is_file(follow_symlinks=False):
                        total += entry.stat(follow_symlinks=False).st_size
    return total


def all_answer(services: Sequence[Service]) -> bool:
    """Whether nothing is missing."""
    return all(one.answers for one in services)


def _timed(name: str, ask: Callable[[], object]) -> Service:
    begun, answers = time.perf_counter(), True
    try:
        ask()
    except (SQLAlchemyError, BackgroundGoneError, OSError):
        answers = False
    return Service(name, answers, time.perf_counter() - begun)


def _written(folder: Path) -> None:
    """Write a file, read it and remove it again. Raises OSError."""
    place, words = folder / f"health-{secrets.token_hex(6)}", secrets.token_bytes(64)
    try:
        with place.open("wb") as file:
            file.write(words)
            file.flush()
            os.fsync(file.fileno())
        if place.read_bytes() != words:
            raise OSError(f"{place} is not what was written")
    finally:
        place.unlink(missing_ok=True)
