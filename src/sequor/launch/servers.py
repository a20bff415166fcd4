"""The processes that answer people on a network: one of Python answers its questions in turn, so that there
are several at one door; each is started again when it ends."""

from __future__ import annotations

import contextlib
import http.client
import logging
import os
import shutil
import signal
import socket
import sys
import threading
import time
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor

from sequor.store.database import Store
from sequor.web.going_on.metrics import TOGETHER

from .door import Door
from .processes import Child, StartError, begin_in, end_orphan, run_folder

PROGRAM = "sequor.launch.answer"
MOST = 16
"""Each takes 0.2 GB of its own, and its part of the originals that are kept decoded."""
READY_SECONDS = 240
STOP_SECONDS = 10
WATCH_SECONDS = 0.5
AGAIN_SECONDS = 2.0

log = logging.getLogger(__name__)


class Servers:
    """Two for each core, at a door; all end with :meth:`stop`.

    Where one waits, the other works: with one for each, people wait longer for each other. ``environment``
    tells them what they work on, as it does workers.
    """

    def __init__(self, store: Store, door: Door, at: socket.socket, environment: Mapping[str, str]) -> None:
        self._folder, self._door, self._at = store.folder, door, at
        self._count = min(MOST, 2 * (os.cpu_count() or 1))
        self._figures = run_folder(store.folder) / "figures"
        shutil.rmtree(self._figures, ignore_errors=True)
        self._figures.mkdir(mode=0o700)
        self._environment = {**environment, TOGETHER: str(self._figures)}
        for number in range(MOST):
            end_orphan(self._folder / f"{_name(number)}.pid", signal.SIGKILL)
        self._all = {number: self._begin(number) for number in range(self._count)}

    def wait_until_ready(self) -> None:
        """Until one of them answers. Raises StartError when one ends instead, or all take too long."""
        deadline = time.monotonic() + READY_SECONDS
        answered = threading.Event()
        threading.Thread(target=self._ask, args=(answered,), daemon=True).start()
        while not answered.wait(0.05):
            if any(child.ended for child in self._all.values()) or time.monotonic() > deadline:
                raise StartError(f"the web server did not start; see {_name(0)}.log in {self._folder}")

    def watch(self, stop: threading.Event) -> None:
        """Start again what ends, until ``stop``."""
        while not stop.wait(WATCH_SECONDS):
            for number, child in self._all.items():
                if child.ended and not stop.wait(AGAIN_SECONDS):
                    log.warning("%s ended and is started again", _name(number))
                    self._all[number] = self._begin(number)

    def stop(self) -> None:
        """End all; what is being answered may end."""
        with ThreadPoolExecutor() as together:
            list(together.map(lambda one: one.stop(signal.SIGTERM, STOP_SECONDS), self._all.values()))
        shutil.rmtree(self._figures, ignore_errors=True)

    def _begin(self, number: int) -> Child:
        command = [sys.executable, "-m", PROGRAM, "--door", str(self._at.fileno()), "--of", str(self._count)]
        if self._door.proxy is not None:
            command += ["--proxy", self._door.proxy]
        handed = (self._at.fileno(),)
        return begin_in(self._folder, _name(number), command, self._environment, handed)

    def _ask(self, answered: threading.Event) -> None:
        # The door is open from the start on: a question waits there until one answers it.
        address, port = self._at.getsockname()[:2]
        connection = http.client.HTTPConnection(address, port, timeout=READY_SECONDS)
        with contextlib.suppress(OSError, http.client.HTTPException), contextlib.closing(connection):
            connection.request("GET", "/favicon.svg")
            connection.getresponse().read()
            answered.set()


def _name(number: int) -> str:
    return f"web-{number + 1}"
