"""The outside painter of one start: at an address, or the stand-in in a process of its own."""

from __future__ import annotations

import signal
import socket
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sequor.painter.client import Painter

from .mariadb import free_port
from .processes import Child, StartError, begin_in, end_orphan

STAND_IN = "stand-in"
READY_SECONDS = 20
STOP_SECONDS = 5


@contextmanager
def painter_at(wanted: str | None, folder: Path) -> Iterator[Painter | None]:
    """The painter at an address; for "stand-in" one is started on loopback and ends with this. None: none.

    Raises StartError when the stand-in does not come up.
    """
    if wanted != STAND_IN:
        yield None if wanted is None else Painter(wanted)
        return
    port = free_port()
    command = [sys.executable, "-m", "sequor.painter.stand_in", "--port", str(port)]
    end_orphan(folder / "painter.pid")
    child = begin_in(folder, "painter", command)
    try:
        _wait_for(child, port, folder)
        yield Painter(f"http://127.0.0.1:{port}")
    finally:
        child.stop(signal.SIGTERM, STOP_SECONDS)


def refuse_odd(address: str | None) -> None:
    """Raise StartError for an address that is none."""
    if address not in (None, STAND_IN):
        try:
            Painter(address)
        except ValueError as error:
            raise StartError(f"{error}, or stand-in") from None


def _wait_for(child: Child, port: int, folder: Path) -> None:
    deadline = time.monotonic() + READY_SECONDS
    while True:
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                return
        if child.ended or time.monotonic() > deadline:
            raise StartError(f"the simulated painting service did not start; see painter.log in {folder}")
        time.sleep(0.05)
