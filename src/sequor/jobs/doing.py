"""Doing a job, in a process of a worker: from its row to what comes of it."""

from __future__ import annotations

import logging
import shutil
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from sqlalchemy.exc import OperationalError

from sequor.operations.importing import Inspection, register
from sequor.operations.steps import original_of
from sequor.operations.telling import MOST_ATTEMPTS, UNFINISHED, StoppedError, Telling, write_unfinished
from sequor.painter.client import Painter
from sequor.store.database import Store
from sequor.store.models import Job, WorkState, now

from .failures import UNEXPECTED, BrokenOffError, FailedError, Failure, failure_of
from .tasks import KINDS, Spec, Work

DATABASE_AGAIN_SECONDS = 30

T = TypeVar("T")

log = logging.getLogger(__name__)


def folder_of(store: Store, name: str) -> Path:
    """The folder of a job, which goes with it."""
    return store.work / name


def do(store: Store, name: str, painter: Painter | None = None) -> Spec | None:
    """Do a job that is still wanted, whoever asked for it how often; what came of it, None without.

    Raises OperationalError when the database stays away: the job is to be asked for again.
    """
    with store.only_one(f"job-{name}") as alone:
        job = _begin(store, name) if alone else None
        if job is None:
            return None
        try:
            result = _done(store, job, painter)
        except StoppedError:
            shutil.rmtree(folder_of(store, name), ignore_errors=True)
        except OperationalError:
            raise
        except Exception as error:
            if failure_of(error) is None:
                log.exception("job %s failed: %s", job.label, error)
            fail(store, name, error)
        else:
            ended = {"progress": 1.0, "result": result, "notices": result["notices"]}
            _end(store, name, "done", job.kind != "import", **ended)
            return result
        return None


def fail(store: Store, name: str, why: Exception) -> None:
    """Put down why a job failed."""
    failure = failure_of(why) or UNEXPECTED
    _end(store, name, "failed", False, code=failure.code, error=failure.words)


def _begin(store: Store, name: str) -> Job | None:
    """The job, begun once more; None when it has ended, or ended its process too often."""
    with store.transaction() as session:
        job = session.get(Job, name, with_for_update=True)
        if job is None or job.state not in UNFINISHED:
            return None
        broken_off = job.attempts
        if broken_off < MOST_ATTEMPTS:
            job.attempts, job.state = broken_off + 1, "running"
            return job
    fail(store, name, BrokenOffError(broken_off))
    return None


def _done(store: Store, job: Job, painter: Painter | None) -> Spec:
    work = Work(folder_of(store, job.id), job.spec, store.folder, painter)
    found = KINDS[job.kind].run(Telling(store, Job, job.id), work)
    if isinstance(found, Inspection):
        return _registered(store, job, work.folder, found)
    result: Spec = found
    return result


def _registered(store: Store, job: Job, folder: Path, found: Inspection) -> Spec:
    """Keep an import; of an exported picture whose original is here, nothing before somebody has chosen."""
    original = None if found.steps is None else original_of(store, found.steps)
    if original is not None and not job.spec.get("own"):
        offered = {"photo_id": original.id, "steps": found.steps, "title": original.title}
        return {**offered, "notices": []}
    # From now on a start knows the original as one that is on its way.
    if not _patiently(lambda: write_unfinished(store, Job, job.id, sha256=found.sha256)):
        raise StoppedError
    try:
        imported = _patiently(
            lambda: register(store, folder / "file", folder / "screen", found, job.spec["name"])
        )
    except OSError as error:
        raise FailedError(
            Failure(
                "no-room",
                f"The photo could not be stored: {error.strerror}. Nothing of it was kept; make room "
                "on the disk and import it again",
            )
        ) from None
    return {"photo_id": imported.photo_id, "known": imported.known, "notices": list(found.notices)}


def _end(store: Store, name: str, state: WorkState, keeps: bool, **values: Any) -> None:
    """Put down that a job has ended; what it wrote goes, unless it ``keeps`` it and nobody has stopped it."""
    values |= {"state": state, "words": state, "ended_at": now()}
    wanted = _patiently(lambda: write_unfinished(store, Job, name, **values))
    if not (wanted and keeps):
        shutil.rmtree(folder_of(store, name), ignore_errors=True)


def _patiently(what: Callable[[], T]) -> T:
    """Do something with the database; one that is just being started again is waited for.

    Raises OperationalError.
    """
    deadline = time.monotonic() + DATABASE_AGAIN_SECONDS
    while True:
        try:
            return what()
        except OperationalError:
            if time.monotonic() > deadline:
                raise
            time.sleep(0.5)
