"""Imports and exports as they are asked for: a row for each says what is wanted and what came of it."""

from __future__ import annotations

import contextlib
import secrets
import shutil
from datetime import timedelta
from pathlib import Path
from typing import Protocol

from sqlalchemy import delete, select, update

from sequor.operations.telling import MOST_ATTEMPTS, UNFINISHED
from sequor.store.database import Store
from sequor.store.models import Job, Take, now

from .background import BackgroundGoneError
from .doing import fail, folder_of
from .failures import BrokenOffError, NeverArrivedError
from .tasks import Spec

KEPT = timedelta(hours=1)
NAME_LENGTH = 16


class WorkQueue(Protocol):
    """What lets work be done that rows ask for."""

    def make_takes(self, photo_id: int, key: str) -> None:
        """Let the wanted takes of one frame be made. Raises BackgroundGoneError."""

    def do_job(self, name: str, kind: str) -> None:
        """Let a job be done. Raises BackgroundGoneError."""

    def break_off(self, name: str) -> None:
        """Let the process that does a job be killed, if there is one."""


class Jobs:
    """Asks for jobs, and knows what became of them for an hour."""

    def __init__(self, store: Store, queue: WorkQueue) -> None:
        self._store, self._queue = store, queue

    def folder(self, name: str) -> Path:
        """The job's own folder, which goes with it."""
        return folder_of(self._store, name)

    def prepare(self) -> str:
        """The name of a new job, with an empty folder."""
        self._forget_old()
        name = secrets.token_hex(NAME_LENGTH // 2)
        self.folder(name).mkdir()
        return name

    def start(self, name: str, kind: str, label: str, spec: Spec) -> Job:
        """Put down what is wanted and ask for it; without Redis it waits. Raises SQLAlchemyError."""
        with self._store.transaction() as session:
            job = Job(id=name, kind=kind, label=label[:255], spec=spec, state="waiting")
            session.add(job)
        with contextlib.suppress(BackgroundGoneError):
            self._queue.do_job(name, kind)
        return job

    def drop(self, name: str) -> None:
        """Forget a job that was never started."""
        shutil.rmtree(self.folder(name), ignore_errors=True)

    def get(self, name: str) -> Job | None:
        """The job with this name."""
        with self._store.transaction() as session:
            job = session.get(Job, name)
        return None if job is None or (job.ended_at or now()) < now() - KEPT else job

    def cancel(self, name: str) -> None:
        """Stop a job; what it had written goes. One that has ended stays as it is."""
        with self._store.transaction() as session:
            job = session.get(Job, name, with_for_update=True)
            if job is None or job.state not in UNFINISHED:
                return
            job.state, job.words, job.ended_at = "cancelled", "Cancelled", now()
        self._queue.break_off(name)
        self.drop(name)

    def _forget_old(self) -> None:
        with self._store.transaction() as session:
            old = list(session.scalars(select(Job.id).where(Job.ended_at < now() - KEPT)))
            session.execute(delete(Job).where(Job.id.in_(old)))
        for name in old:
            self.drop(name)


def tidy(store: Store) -> None:
    """Before anything is asked for: give up what cannot be gone on with, remove what belongs to no job."""
    with store.transaction() as session:
        jobs = {job.id: job for job in session.scalars(select(Job))}
    for leftover in store.work.iterdir():
        if leftover.name in jobs:
            continue
        if leftover.is_dir():
            shutil.rmtree(leftover, ignore_errors=True)
        else:
            leftover.unlink(missing_ok=True)
    for job in jobs.values():
        if job.state not in UNFINISHED:
            continue
        if job.attempts >= MOST_ATTEMPTS:
            fail(store, job.id, BrokenOffError(job.attempts))
        elif job.kind == "import" and not _arrived(folder_of(store, job.id) / "file", job.spec):
            fail(store, job.id, NeverArrivedError())
        else:
            folder_of(store, job.id).mkdir(exist_ok=True)


def unfinished(store: Store) -> list[tuple[str, str]]:
    """Names and kinds of jobs that are still to be done, in the order they were asked for."""
    with store.transaction() as session:
        query = select(Job.id, Job.kind).where(Job.state.in_(UNFINISHED)).order_by(Job.asked_at)
        return [(name, kind) for name, kind in session.execute(query)]


def let_go(store: Store) -> None:
    """After a stop that was asked for: what was being done waits again, and no attempt is counted for it."""
    with store.transaction() as session:
        for of in (Job, Take):
            running = update(of).where(of.state == "running")
            session.execute(running.values(state="waiting", attempts=of.attempts - 1))


def _arrived(file: Path, spec: Spec) -> bool:
    return file.is_file() and file.stat().st_size == spec["bytes"]
