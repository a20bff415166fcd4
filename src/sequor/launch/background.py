"""The private Redis and the workers: started beside the database, watched, started again when they end."""

from __future__ import annotations

import contextlib
import logging
import os
import shutil
import signal
import socket
import sys
import threading
import time
from collections.abc import Iterable, Mapping
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import redis
from sqlalchemy.exc import SQLAlchemyError

from sequor.jobs.asking import ring
from sequor.jobs.background import (
    BROKER,
    DATA,
    DATABASE,
    FILES,
    GIVES_WAY,
    PAINTER,
    WORKERS,
    Background,
    BackgroundGoneError,
)
from sequor.jobs.jobs import let_go, unfinished
from sequor.jobs.looks import ask_for_looks
from sequor.jobs.sweeping import sweep
from sequor.operations.takes import wanted
from sequor.painter.client import Painter
from sequor.store.database import Store

from .processes import Child, StartError, begin_in, end_orphan, run_folder

APPLICATION = "sequor.jobs.worker"
SOCKET = "s"

READY_SECONDS = 20
STOP_SECONDS = 10
WATCH_SECONDS = 0.5
AGAIN_SECONDS = 2.0
SWEEP_SECONDS = 10.0
STANDSTILL_SECONDS = 60.0
"""A worker that takes nothing for so long, though something waits for it, is asked what it does,"""
ASKED_TIMES = 3
"""and when it has said so often that it does nothing, or said nothing, it is ended and started again."""

ONE_THREAD = {
    GIVES_WAY: "1",
    "NUMBA_NUM_THREADS": "1",
    "OMP_NUM_THREADS": "1",
    "OPENBLAS_NUM_THREADS": "1",
    "MKL_NUM_THREADS": "1",
}
"""The environment of workers whose processes keep to one core each."""
NOTHING: Mapping[str, str] = {}

log = logging.getLogger(__name__)


def background_of(store: Store) -> Background:
    """The way to the workers of the program that runs over a store."""
    return Background(broker_of(store))


def broker_of(store: Store) -> str:
    """The address of the Redis of the program that runs over a store."""
    return f"redis+socket://{_folder_of_redis(store) / SOCKET}"


def _folder_of_redis(store: Store) -> Path:
    return run_folder(store.folder) / "redis"


class Services:
    """Redis on a socket that only this user reaches, and the workers; all end with :meth:`stop`. Over the
    ``broker`` of several machines there are only the workers, some or all; ``at_once``: how much each does.

    Redis keeps nothing: the rows of the database say what is still to be done. ``environment`` tells a
    process what it works on. Raises StartError.
    """

    def __init__(
        self,
        store: Store,
        database: str,
        painter: Painter | None = None,
        broker: str | None = None,
        only: Iterable[str] = WORKERS,
        at_once: int | None = None,
    ) -> None:
        self._store, self._only, self._alone, self._at_once = store, tuple(only), broker is None, at_once
        # Among those of other machines a worker is known by whose it is.
        self._of = "" if self._alone else f".{socket.gethostname()[:30]}-{os.getpid()}"
        for name in (*WORKERS, "redis"):
            end_orphan(store.folder / f"{name}.pid", signal.SIGKILL)
        self._run = _folder_of_redis(store)
        shutil.rmtree(self._run, ignore_errors=True)
        self._run.mkdir(mode=0o700)
        self._socket = self._run / SOCKET
        address = broker or broker_of(store)
        self.background = Background(address)
        self.environment = {**os.environ, BROKER: address, DATABASE: database, DATA: str(store.folder)}
        self.environment.pop(FILES, None)
        if store.objects is not None:
            self.environment[FILES] = store.objects.address
        # Only the start command says where the painter is, not what happens to be in the environment.
        self.environment.pop(PAINTER, None)
        if painter is not None:
            self.environment[PAINTER] = painter.address
        self._program = shutil.which("redis-server")
        if self._alone and not self._program:
            raise StartError(
                "redis-server is missing; install the Debian package redis-server and start again"
            )
        self.redis = self._start_redis() if self._alone else None
        self.workers: dict[str, Child] = {}
        try:
            self._wait_for_redis()
            for name in self._only:
                self.workers[name] = self._start_worker(name)
        except BaseException:
            for child in self._children().values():
                child.stop(signal.SIGKILL, STOP_SECONDS)
            raise
        self._patience = dict.fromkeys(WORKERS, STANDSTILL_SECONDS)
        self._waited_since: dict[str, float] = {}
        self._idle = dict.fromkeys(WORKERS, 0)
        self._asked, self._swept = False, 0.0
        self._stopping = threading.Event()
        self._watching = threading.Thread(target=self._watch, daemon=True)

    def watch(self) -> None:
        """Ask for what is unfinished, and from now on start again what ends."""
        self._watching.start()

    def stop(self) -> None:
        """End all; what is being done is taken up again by the next start."""
        self._stopping.set()
        if self._watching.is_alive():
            self._watching.join(STOP_SECONDS)
        # SIGQUIT is Celery's way to end at once; SIGTERM would wait for the work.
        with ThreadPoolExecutor() as together:
            list(together.map(lambda one: one.stop(signal.SIGQUIT, STOP_SECONDS), self.workers.values()))
        with contextlib.suppress(SQLAlchemyError):
            let_go(self._store, self._alone)
        if self.redis is not None:
            self.redis.stop(signal.SIGTERM, STOP_SECONDS)
        shutil.rmtree(self._run, ignore_errors=True)
        with contextlib.suppress(OSError):
            self._run.parent.rmdir()

    def take_up(self) -> None:
        """Ask for everything that is still to be done; asked twice, it is done once."""
        try:
            ring(self.background, unfinished(self._store))
            for photo_id, key in wanted(self._store):
                self.background.make_takes(photo_id, key)
        except BackgroundGoneError:
            return

    def _children(self) -> dict[str, Child]:
        return dict(self.workers) if self.redis is None else {"redis": self.redis, **self.workers}

    def _start_redis(self) -> Child:
        assert self._program is not None
        command = [self._program, "--port", "0", "--unixsocket", str(self._socket), "--unixsocketperm", "700"]
        command += ["--dir", str(self._run), "--save", "", "--appendonly", "no", "--daemonize", "no"]
        return self._begin(command, "redis")

    def _start_worker(self, name: str) -> Child:
        worker = WORKERS[name]
        command = [sys.executable, "-m", "celery", "-A", APPLICATION, "worker", "-n", name + self._of]
        command += ["-Q", ",".join(worker.lanes), "--concurrency", str(self._at_once or worker.at_once)]
        command += ["--loglevel", "WARNING", "--without-gossip", "--without-mingle", "--without-heartbeat"]
        return self._begin(command, name, ONE_THREAD if worker.gives_way else {})

    def _begin(self, command: list[str], name: str, environment: Mapping[str, str] = NOTHING) -> Child:
        return begin_in(self._store.folder, name, command, {**self.environment, **environment})

    def _wait_for_redis(self) -> None:
        if self.redis is None:
            return
        client = redis.Redis(unix_socket_path=str(self._socket))
        deadline = time.monotonic() + READY_SECONDS
        while True:
            try:
                client.ping()
                client.close()
                return
            except redis.ConnectionError:
                pass
            if self.redis.ended or time.monotonic() > deadline:
                raise StartError(f"Redis did not start; see redis.log in {self._store.folder}")
            time.sleep(0.02)

    def _taken_up(self) -> bool:
        """Whether all that is unfinished could be asked for: the database may be away at the same time."""
        try:
            self.take_up()
        except SQLAlchemyError:
            log.warning("what is unfinished could not be asked for yet: the database does not answer")
            return False
        return True

    def _sweep(self) -> None:
        """Ring again for what nobody does, and let photos be looked at that nobody has looked at."""
        try:
            sweep(self._store, self.background)
            ask_for_looks(self._store, self.background)
            for name in self._only:
                self._rouse(name)
        except (SQLAlchemyError, BackgroundGoneError, OSError):
            log.warning("what is unfinished could not be swept: a service does not answer")

    def _rouse(self, name: str) -> None:
        """End a worker that lives and takes nothing; it is then started again. Raises BackgroundGoneError."""
        if not self.background.waiting(name) or self.workers[name].ended:
            self._waited_since.pop(name, None)
            self._idle[name] = 0
            return
        since = self._waited_since.setdefault(name, time.monotonic())
        if time.monotonic() - since < self._patience[name]:
            return
        if self.background.is_at_work(name + self._of):
            del self._waited_since[name]
            self._idle[name] = 0
            return
        self._idle[name] += 1
        if self._idle[name] < ASKED_TIMES:
            return
        log.warning("the worker %s takes nothing though something waits, and is started again", name)
        # One that is only slow to come up gets there in the end.
        self._patience[name] *= 2
        self._idle[name] = 0
        del self._waited_since[name]
        self.workers[name].stop(signal.SIGKILL, STOP_SECONDS)

    def _watch(self) -> None:
        self._swept = time.monotonic()
        while not self._stopping.wait(WATCH_SECONDS):
            for look in (self._start_again, self._ask_again):
                try:
                    look()
                except Exception:
                    # Nobody else would start again what ends.
                    log.exception("looking after the services failed; it is tried again")

    def _ask_again(self) -> None:
        self._asked = self._asked or self._taken_up()
        if self._asked and time.monotonic() - self._swept > SWEEP_SECONDS:
            self._swept = time.monotonic()
            self._sweep()

    def _start_again(self) -> None:
        """Start again what has ended. Raises StartError, OSError."""
        ended = [name for name, child in self._children().items() if child.ended]
        if not ended:
            return
        log.warning("%s ended and is started again", " and ".join(ended))
        if self._stopping.wait(AGAIN_SECONDS):
            return
        if "redis" in ended:
            self.redis = self._start_redis()
            self._wait_for_redis()
        for name in self.workers.keys() & ended:
            self.workers[name] = self._start_worker(name)
        self._asked = False
