"""A worker: ``celery -A sequor.jobs.worker worker -Q QUEUES``. A task calls one operation.

The broker, the database, the data folder and an object store come from its environment. Each process of a
worker stays within its limits, and a job within its time: what goes beyond is killed, and the job's row says
so.
"""

from __future__ import annotations

import logging
import os
import signal
from functools import cache

from celery.exceptions import TimeLimitExceeded
from celery.signals import setup_logging, task_failure, worker_process_init
from sqlalchemy.exc import OperationalError, SQLAlchemyError

from sequor.operations import takes
from sequor.store.database import Store

from . import doing
from .background import (
    BROKER,
    DO_JOB,
    GIVES_WAY,
    MAKE_TAKES,
    Background,
    queue,
)
from .failures import TooLongError
from .given import given_painter, given_store
from .limits import give_way, keep_within_limits
from .logs import note_in
from .looks import ask_for_looks

log = logging.getLogger(__name__)

app = queue(os.environ[BROKER])

WAITS_FOR_DATABASE = {
    "autoretry_for": (OperationalError,),
    "max_retries": None,
    "retry_backoff": True,
    "retry_backoff_max": 30,
}
"""A database that is away is no reason to give anything up."""


@cache
def _store(process: int) -> Store:
    return given_store()


def _here() -> Store:
    """The store of this process: connections cannot be shared with the one it was forked from."""
    return _store(os.getpid())


@cache
def _bell() -> Background:
    return Background(os.environ[BROKER])


@setup_logging.connect  # type: ignore[untyped-decorator]
def _note(**_: object) -> None:
    note_in(logging.StreamHandler(), logging.WARNING)


@worker_process_init.connect  # type: ignore[untyped-decorator]
def _make_ready(**_: object) -> None:
    keep_within_limits()
    if GIVES_WAY in os.environ:
        give_way()


def _end() -> None:
    """End this process: whoever cancels a job lets it be killed, but that message may be lost."""
    os.kill(os.getpid(), signal.SIGKILL)


@app.task(name=MAKE_TAKES, **WAITS_FOR_DATABASE)  # type: ignore[untyped-decorator]
def make_takes(photo_id: int, key: str) -> None:
    """Make the wanted takes of one frame."""
    takes.make(_here(), photo_id, key, given_painter())


@app.task(name=DO_JOB, **WAITS_FOR_DATABASE)  # type: ignore[untyped-decorator]
def do_job(name: str) -> None:
    """Do one job; a photo that is new is looked at afterwards."""
    result = doing.do(_here(), name, given_painter(), _end)
    if result is not None and result.get("known") is False:
        ask_for_looks(_here(), _bell(), [result["photo_id"]])


@task_failure.connect(sender=do_job)  # type: ignore[untyped-decorator]
def _out_of_time(task_id: str, exception: BaseException, **_: object) -> None:
    """The process that did a job was killed over its time; this is the worker itself."""
    if isinstance(exception, TimeLimitExceeded):
        try:
            doing.fail(_here(), task_id, TooLongError(float(exception.args[0])))
        except SQLAlchemyError:
            log.exception("that the job %s took too long could not be written", task_id)
