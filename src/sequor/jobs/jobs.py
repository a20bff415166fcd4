"""Imports and exports: a row for each says what was asked for and what came of it; children do the work."""

from __future__ import annotations

import logging
import secrets
import shutil
import threading
import time
from dataclasses import dataclass, field
from datetime import timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import delete, select, update
from sqlalchemy.exc import OperationalError, SQLAlchemyError

from sequor.operations.importing import Inspection, register
from sequor.painter.client import Painter
from sequor.store.database import Store
from sequor.store.models import Job, WorkState, now

from . import children
from .children import CancelledError, ChildLostError, run_in_child
from .failures import UNEXPECTED, BrokenOffError, FailedError, Failure, NeverArrivedError, failure_of
from .lanes import Lane
from .tasks import KINDS, Spec, Work

KEPT = timedelta(hours=1)
MOST_ATTEMPTS = 3
UNFINISHED: tuple[WorkState, ...] = ("waiting", "running")
DATABASE_AGAIN_SECONDS = 30
FOLDER_LENGTH = 16

log = logging.getLogger(__name__)


@dataclass
class Begun:
    """A job of this run of the program, and how far it is."""

    row: Job
    folder: Path
    progress: float = 0.0
    words: str = "waiting"
    cancelled: threading.Event = field(default_factory=threading.Event)
    ended: threading.Event = field(default_factory=threading.Event)


class Jobs:
    """Starts jobs, keeps what becomes of them in rows for an hour, and takes up what a stop broke off."""

    def __init__(self, store: Store, painter: Painter | None = None) -> None:
        self._store, self._painter = store, painter
        self._begun: dict[str, Begun] = {}
        self._lock = threading.Lock()
        self._lanes = {kind.lane: Lane() for kind in KINDS.values()}
        self._closing = False
        children.prepare()

    def folder(self, name: str) -> Path:
        """The job's own folder, which goes with it."""
        return self._store.work / name

    def prepare(self) -> str:
        """The name of a new job, with an empty folder."""
        self._forget_old()
        name = secrets.token_hex(FOLDER_LENGTH // 2)
        self.folder(name).mkdir()
        return name

    def start(self, name: str, kind: str, label: str, spec: Spec) -> Begun:
        """Put down what is wanted, and begin it when its turn comes. Raises SQLAlchemyError."""
        row = Job(
            id=name,
            kind=kind,
            label=label[:255],
            spec=spec,
            state="waiting",
            attempts=0,
            notices=[],
            sha256=None,
            code=None,
            error=None,
            result=None,
            ended_at=None,
        )
        with self._store.transaction() as session:
            session.add(row)
        return self._enqueue(row)

    def drop(self, name: str) -> None:
        """Forget a job that was never started."""
        shutil.rmtree(self.folder(name), ignore_errors=True)

    def warm_up(self) -> None:
        """Let the first job be as quick as the others."""
        children.warm_up()

    def get(self, name: str) -> Begun | None:
        """The job with this name."""
        with self._lock:
            begun = self._begun.get(name)
        if begun is not None:
            return begun
        with self._store.transaction() as session:
            row = session.get(Job, name)
        if row is None or row.ended_at is None or row.ended_at < now() - KEPT:
            return None
        progress = 1.0 if row.state == "done" else 0.0
        return Begun(row, self.folder(name), progress, row.state)

    def cancel(self, job: Begun) -> None:
        """Stop a job; what it had written goes. One that has not begun is stopped at once."""
        job.cancelled.set()
        if self._lanes[KINDS[job.row.kind].lane].remove(job.row.id):
            self._end(job, "cancelled", "stopped")
        job.ended.wait(5)

    def take_up(self) -> None:
        """Go on with what the last stop broke off, and remove what belongs to no job."""
        with self._store.transaction() as session:
            rows = list(session.scalars(select(Job).order_by(Job.asked_at)))
        self._remove_strays({row.id for row in rows})
        for row in rows:
            if row.state not in UNFINISHED:
                continue
            if row.attempts >= MOST_ATTEMPTS:
                self._give_up(row, BrokenOffError(row.attempts))
            elif row.kind == "import" and not _arrived(self.folder(row.id) / "file", row.spec):
                self._give_up(row, NeverArrivedError())
            else:
                self.folder(row.id).mkdir(exist_ok=True)
                self._enqueue(row)

    def close(self) -> None:
        """Let go of whatever still runs: the next start takes it up again."""
        self._closing = True
        for lane in self._lanes.values():
            lane.clear()
        with self._lock:
            begun = [job for job in self._begun.values() if not job.ended.is_set()]
        # One that is just about to begin must hear it too.
        for job in begun:
            job.cancelled.set()
        for job in begun:
            if job.row.state == "running":
                job.ended.wait(5)

    def _enqueue(self, row: Job) -> Begun:
        job = Begun(row, self.folder(row.id))
        with self._lock:
            self._begun[row.id] = job
        self._lanes[KINDS[row.kind].lane].add(row.id, lambda: self._run(job))
        return job

    def _run(self, job: Begun) -> None:
        try:
            result = self._done(job)
        except CancelledError:
            self._let_go(job)
        except Exception as error:
            failure = failure_of(error)
            if failure is None or failure.code == UNEXPECTED.code:
                log.exception("job %s failed: %s", job.row.label, error)
                failure = UNEXPECTED
            self._end(job, "failed", "failed", failure=failure)
        else:
            self._end(job, "done", "done", result)

    def _done(self, job: Begun) -> Spec:
        kind = KINDS[job.row.kind]
        work = Work(job.folder, job.row.spec, self._store.folder, self._painter)

        def tell(share: float, words: str) -> None:
            job.progress, job.words = share, words

        while True:
            if job.cancelled.is_set():
                raise CancelledError
            attempts = job.row.attempts + 1
            self._write(job, state="running", attempts=attempts)
            try:
                found = run_in_child(kind.run, (work,), tell, job.cancelled, kind.seconds)
                break
            except ChildLostError:
                log.warning("the child of job %s was lost", job.row.label)
                if attempts >= MOST_ATTEMPTS:
                    raise BrokenOffError(attempts) from None
        if isinstance(found, Inspection):
            return self._register(job, found)
        result: Spec = found
        return result

    def _register(self, job: Begun, found: Inspection) -> Spec:
        """Keep an import; a database that is just being started again is waited for."""
        # From now on a start knows the original as one that is on its way.
        self._write(job, sha256=found.sha256)
        deadline = time.monotonic() + DATABASE_AGAIN_SECONDS
        while True:
            if job.cancelled.is_set():
                raise CancelledError
            try:
                file, screen = job.folder / "file", job.folder / "screen"
                imported = register(self._store, file, screen, found, job.row.spec["name"])
                return {
                    "photo_id": imported.photo_id,
                    "known": imported.known,
                    "notices": list(found.notices),
                }
            except OperationalError:
                if time.monotonic() > deadline:
                    raise FailedError(
                        Failure(
                            "database",
                            "The database does not answer. The photo was not imported; stop the program, "
                            "start it again, and it is taken up by itself",
                        )
                    ) from None
                time.sleep(0.5)
            except OSError as error:
                raise FailedError(
                    Failure(
                        "no-room",
                        f"The photo could not be stored: {error.strerror}. Nothing of it was kept; make room "
                        "on the disk and import it again",
                    )
                ) from None

    def _let_go(self, job: Begun) -> None:
        if self._closing:
            self._write(job, state="waiting", attempts=max(0, job.row.attempts - 1))
            job.ended.set()
        else:
            self._end(job, "cancelled", "stopped")

    def _give_up(self, row: Job, why: Exception) -> None:
        self._end(Begun(row, self.folder(row.id)), "failed", "failed", failure=failure_of(why))

    def _end(
        self,
        job: Begun,
        state: WorkState,
        words: str,
        result: Spec | None = None,
        failure: Failure | None = None,
    ) -> None:
        keeps = state == "done" and job.row.kind != "import"
        if not keeps:
            shutil.rmtree(job.folder, ignore_errors=True)
        if state == "done":
            job.progress = 1.0
        job.words = words
        values: dict[str, Any] = {"state": state, "ended_at": now()}
        if result is not None:
            values |= {"result": result, "notices": result["notices"]}
        if failure is not None:
            values |= {"code": failure.code, "error": failure.words}
        # A database that is away for good leaves the row as it was: the next start takes the job up again.
        unwritten = failure is not None and failure.code == "database"
        self._write(job, unwritten, **values)
        job.ended.set()

    def _write(self, job: Begun, only_here: bool = False, **values: Any) -> None:
        """Put down what is true of a job, here and in its row; a database that is away does not stop it."""
        for name, value in values.items():
            setattr(job.row, name, value)
        if only_here:
            return
        try:
            with self._store.transaction() as session:
                session.execute(
                    update(Job).where(Job.id == job.row.id, Job.state.in_(UNFINISHED)).values(**values)
                )
        except SQLAlchemyError:
            log.exception("the row of job %s could not be written", job.row.label)

    def _forget_old(self) -> None:
        before = now() - KEPT
        with self._lock:
            for name, job in list(self._begun.items()):
                if job.ended.is_set() and (job.row.ended_at or before) <= before:
                    shutil.rmtree(job.folder, ignore_errors=True)
                    del self._begun[name]
        with self._store.transaction() as session:
            session.execute(delete(Job).where(Job.ended_at < before))

    def _remove_strays(self, known: set[str]) -> None:
        for leftover in self._store.work.iterdir():
            if leftover.name in known:
                continue
            if leftover.is_dir():
                shutil.rmtree(leftover, ignore_errors=True)
            else:
                leftover.unlink(missing_ok=True)


def _arrived(file: Path, spec: Spec) -> bool:
    return file.is_file() and file.stat().st_size == spec["bytes"]
