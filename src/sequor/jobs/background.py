"""Background work through Celery: asked for here, done by workers in processes of their own."""

from __future__ import annotations

import contextlib
import os
from dataclasses import dataclass
from typing import Any

from celery import Celery
from kombu.exceptions import OperationalError
from redis import RedisError

from .tasks import KINDS

MAKE_TAKES, DO_JOB = "sequor.make_takes", "sequor.do_job"

BROKER, DATABASE, DATA = "SEQUOR_BROKER", "SEQUOR_DATABASE", "SEQUOR_DATA"
FILES = "SEQUOR_FILES"
PAINTER = "SEQUOR_PAINTER"
GIVES_WAY = "SEQUOR_GIVES_WAY"
"""Where a worker reads from its environment what it works on, and how."""

ANSWERS_WITHIN_SECONDS = 2.0

TELLS_WITHIN_SECONDS = 5.0
SAYS_WITHIN_SECONDS = 1.0
"""For so long workers are waited for while somebody looks; how many there are is not known."""
NODE = "celery@"

GONE = (
    "The background service (Redis) is not answering. Nothing is lost: what you asked for will be done as "
    "soon as it is back. If it does not come back, stop Sequor and start it again"
)


@dataclass(frozen=True)
class Worker:
    """One worker: the lanes it serves in turn, and how much it does at once; ``gives_way``: each with a
    single thread, and only with what of the machine nobody else wants."""

    lanes: tuple[str, ...]
    at_once: int
    gives_way: bool = False


WORKERS = {
    # Somebody waits for these.
    "asked": Worker(("import", "export"), 3),
    # Many photos at once: a process for each core, which leaves it to whoever waits. What was asked for and
    # looks that nobody asked for take turns.
    "bulk": Worker(("bulk", "look"), os.cpu_count() or 1, gives_way=True),
    # New pixels take longest and most memory.
    "fill": Worker(("takes", "fill"), 1),
}
WORKS_FOR_A_PROCESS = 50
"""After so many a process is replaced: what libraries leak, and what a file has upset, goes with it."""


class BackgroundGoneError(ConnectionError):
    """The queue does not answer. What was asked for is kept and done when it is back."""


def queue(broker: str) -> Celery:
    """The Celery application over a broker's URL; the rows of the database are what tells of results."""
    app = Celery("sequor", broker=broker)
    app.conf.update(
        task_ignore_result=True,
        task_acks_late=True,
        task_reject_on_worker_lost=True,
        task_serializer="json",
        accept_content=["json"],
        worker_prefetch_multiplier=1,
        worker_max_tasks_per_child=WORKS_FOR_A_PROCESS,
        broker_connection_retry_on_startup=True,
        # On a busy machine a child is slow to come up; at Celery's four seconds it would be killed over it,
        # again and again.
        worker_proc_alive_timeout=60,
    )
    return app


class Background:
    """What the web server asks the workers for."""

    def __init__(self, broker: str) -> None:
        self._queue = queue(broker)
        # Somebody waits for the answer; the workers, which nobody waits for, go on trying.
        self._queue.conf.broker_transport_options = {
            "socket_connect_timeout": ANSWERS_WITHIN_SECONDS,
            "max_retries": 1,
            "interval_start": 0.1,
        }

    def make_takes(self, photo_id: int, key: str) -> None:
        """Let the wanted takes of one frame be made. Raises BackgroundGoneError."""
        self._send(MAKE_TAKES, (photo_id, key), queue="takes")

    def do_job(self, name: str, kind: str, lane: str) -> None:
        """Let a job be done that its row asks for. Raises BackgroundGoneError."""
        self._send(DO_JOB, (name,), queue=lane, task_id=name, time_limit=KINDS[kind].seconds)

    def waiting(self, worker: str | None = None) -> int:
        """How many messages nobody, or this worker, has taken yet. Raises BackgroundGoneError."""
        workers = WORKERS.values() if worker is None else [WORKERS[worker]]
        try:
            with self._queue.connection_for_write() as connection:
                client = connection.default_channel.client
                return sum(client.llen(lane) for one in workers for lane in one.lanes)
        except (OperationalError, RedisError):
            raise BackgroundGoneError(GONE) from None

    def is_at_work(self, worker: str) -> bool:
        """Whether a worker says that it does something. Raises BackgroundGoneError."""
        try:
            inspect = self._queue.control.inspect([NODE + worker], timeout=TELLS_WITHIN_SECONDS, limit=1)
            return any((inspect.active() or {}).values())
        except (OperationalError, RedisError):
            raise BackgroundGoneError(GONE) from None

    def at_work(self) -> dict[str, int]:
        """How much each worker that says something is doing, by its name. Raises BackgroundGoneError."""
        try:
            inspect = self._queue.control.inspect(timeout=SAYS_WITHIN_SECONDS)
            said = inspect.active() or {}
        except (OperationalError, RedisError):
            raise BackgroundGoneError(GONE) from None
        return {name.removeprefix(NODE): len(doing) for name, doing in said.items()}

    def break_off(self, name: str) -> None:
        """Let the process that does a job be killed, if there is one; its row must tell already."""
        with contextlib.suppress(OperationalError):
            self._queue.control.revoke(name, terminate=True, signal="SIGKILL")

    def _send(self, task: str, arguments: tuple[Any, ...], **options: Any) -> None:
        try:
            self._queue.send_task(task, arguments, retry=False, **options)
        except OperationalError:
            raise BackgroundGoneError(GONE) from None
