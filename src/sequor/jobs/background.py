"""Background work through Celery: asked for here, done by a worker in a process of its own."""

from __future__ import annotations

from celery import Celery
from kombu.exceptions import OperationalError

MAKE_TAKES = "sequor.make_takes"

BROKER, DATABASE, DATA = "SEQUOR_BROKER", "SEQUOR_DATABASE", "SEQUOR_DATA"
PAINTER = "SEQUOR_PAINTER"
"""Where a worker reads from its environment what it works on."""

ANSWERS_WITHIN_SECONDS = 2.0


class BackgroundGoneError(ConnectionError):
    """The queue does not answer. What was asked for is kept and made when it is back."""


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
        broker_connection_retry_on_startup=True,
        # A child loads compiled libraries first; at Celery's four seconds it would be killed over it, again
        # and again.
        worker_proc_alive_timeout=60,
    )
    return app


class Background:
    """What the web server asks the worker for."""

    def __init__(self, broker: str) -> None:
        self._queue = queue(broker)
        # Somebody waits for the answer; the worker, which nobody waits for, goes on trying.
        self._queue.conf.broker_transport_options = {
            "socket_connect_timeout": ANSWERS_WITHIN_SECONDS,
            "max_retries": 1,
            "interval_start": 0.1,
        }

    def make_takes(self, photo_id: int, key: str) -> None:
        """Let the wanted takes of one frame be made. Raises BackgroundGoneError."""
        try:
            self._queue.send_task(MAKE_TAKES, (photo_id, key), retry=False)
        except OperationalError:
            raise BackgroundGoneError(
                "the background service (Redis) does not answer. Nothing is lost: the takes wait and are "
                "made as soon as it is back; if it does not come back, stop the program and start it again"
            ) from None
