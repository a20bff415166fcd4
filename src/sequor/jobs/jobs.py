"""Single jobs as they are asked for: a row for each says what is wanted and what came of it."""

from __future__ import annotations

import contextlib
import shutil
from datetime import timedelta
from pathlib import Path

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from sequor.operations.accounts import refuse_too_much
from sequor.operations.telling import MOST_ATTEMPTS, UNFINISHED
from sequor.store.again import begun_again
from sequor.store.database import Store
from sequor.store.models import BatchPhoto, Job, Take, now

from .asking import Bell, WorkQueue, new_name
from .background import BackgroundGoneError
from .claim import is_free, is_gone
from .doing import fail
from .failures import BrokenOffError, NeverArrivedError
from .folders import folder_of, forget, forget_left, hand_over, is_there
from .tasks import KINDS, Spec

KEPT = timedelta(hours=1)
KEPT_OF_BATCHES = timedelta(days=1)
"""How long it is known what came of a job, and how long of those of a batch."""


class Jobs:
    """Asks for jobs, and knows what became of them for an hour."""

    def __init__(self, store: Store, queue: WorkQueue) -> None:
        self._store, self._queue = store, queue

    def folder(self, name: str) -> Path:
        """The job's own folder, which goes with it."""
        return folder_of(self._store, name)

    def prepare(self) -> str:
        """The name of a new job, with an empty folder."""
        name = new_name()
        self.folder(name).mkdir()
        return name

    def refuse_too_much(self, size: int) -> None:
        """Before a file of so many bytes is sent: let nobody bring more than they may. Raises
        TooMuchWorkError, NoRoomLeftError."""
        with self._store.transaction() as session:
            refuse_too_much(session, 1, size)

    def start(self, name: str, kind: str, label: str, spec: Spec) -> Job:
        """Put down what is wanted and ask for it; without Redis it waits. Raises SQLAlchemyError, OSError,
        TooMuchWorkError, NoRoomLeftError."""
        if KINDS[kind].brings:
            hand_over(self._store, name, KINDS[kind].brings)
        lane = KINDS[kind].lane
        with self._store.transaction() as session:
            refuse_too_much(session, 1, spec.get("bytes", 0))
            job = Job(id=name, kind=kind, lane=lane, label=label[:255], spec=spec, state="waiting")
            session.add(job)
        with contextlib.suppress(BackgroundGoneError):
            self._queue.do_job(name, kind, lane)
        return job

    def drop(self, name: str) -> None:
        """Forget a job that was never started."""
        forget(self._store, name)

    def get(self, name: str) -> Job | None:
        """The job with this name."""
        with self._store.transaction() as session:
            job = session.get(Job, name)
        return None if job is None or (job.ended_at or now()) < now() - KEPT else job

    def cancel(self, name: str) -> None:
        """Stop a job; what it had written goes. One that has ended stays as it is."""
        if _cancelled(self._store, name):
            self._queue.break_off(name)
            self.drop(name)


@begun_again
def _cancelled(store: Store, name: str) -> bool:
    with store.transaction() as session:
        job = session.get(Job, name, with_for_update=True)
        if job is None or job.state not in UNFINISHED:
            return False
        job.state, job.words, job.ended_at, job.owner = "cancelled", "Cancelled", now(), None
    return True


@begun_again
def forget_old(store: Store) -> None:
    """Forget jobs that have ended long ago, and what they wrote."""
    held = select(BatchPhoto.job_id).where(BatchPhoto.job_id == Job.id).exists()
    with store.transaction() as session:
        past = select(Job.id).where(Job.ended_at < now() - KEPT_OF_BATCHES)
        session.execute(update(BatchPhoto).where(BatchPhoto.job_id.in_(past)).values(job_id=None))
        old = list(session.scalars(select(Job.id).where(Job.ended_at < now() - KEPT, ~held)))
        session.execute(delete(Job).where(Job.id.in_(old)))
    forget(store, *old)


def tidy(store: Store) -> None:
    """Before anything is asked for: give up what cannot be gone on with, remove what belongs to no job."""
    with store.transaction() as session:
        jobs = {job.id: job for job in session.scalars(select(Job))}
    for leftover in store.work.iterdir():
        if leftover.name not in jobs:
            remove(leftover)
    forget_left(store, jobs)
    for job in jobs.values():
        # Among several machines another one may be doing it.
        if job.state not in UNFINISHED or (store.objects is not None and not is_free(job)):
            continue
        if job.attempts >= MOST_ATTEMPTS:
            fail(store, job.id, BrokenOffError(job.attempts))
        elif job.kind == "import" and not is_there(store, job.id, "file", job.spec["bytes"]):
            fail(store, job.id, NeverArrivedError())


def remove(leftover: Path) -> None:
    """Remove what was left in the work folder."""
    if leftover.is_dir():
        shutil.rmtree(leftover, ignore_errors=True)
    else:
        leftover.unlink(missing_ok=True)


def unfinished(store: Store) -> list[Bell]:
    """Jobs that are still to be done, in the order they were asked for."""
    with store.transaction() as session:
        query = select(Job.id, Job.kind, Job.lane).where(Job.state.in_(UNFINISHED)).order_by(Job.asked_at)
        return [Bell(*row) for row in session.execute(query)]


def _running(session: Session) -> list[tuple[str, str]]:
    query = select(Job.id, Job.owner).where(Job.state == "running")
    return [(name, owner) for name, owner in session.execute(query) if owner is not None]


@begun_again
def let_go(store: Store, alone: bool = True) -> None:
    """After a stop that was asked for: what was being done here waits again, and no attempt is counted for
    it. ``alone``: nobody else does anything."""
    with store.transaction() as session:
        mine = update(Job).where(Job.state == "running")
        if alone:
            running = update(Take).where(Take.state == "running")
            session.execute(running.values(state="waiting", attempts=Take.attempts - 1))
        else:
            mine = mine.where(Job.id.in_([name for name, owner in _running(session) if is_gone(owner)]))
        session.execute(mine.values(state="waiting", attempts=Job.attempts - 1, owner=None))
