"""Answer at a door. Open to a network, several processes do: ``python -m sequor.launch.answer`` is one of
them."""

from __future__ import annotations

import argparse
import logging
import os
import socket
import sys
import threading
from collections.abc import Callable
from pathlib import Path

import numpy as np
from apiflask import APIFlask

from sequor.core.distortion.models import no_lens
from sequor.core.raster.resample import resample
from sequor.core.warp.homography import homography_warp
from sequor.jobs.background import BROKER, DATA, DATABASE, FILES, PAINTER, Background
from sequor.jobs.logs import note_in
from sequor.painter.client import Painter
from sequor.store.database import Store, connect
from sequor.store.objects import Objects
from sequor.web.app import create_app
from sequor.web.serving import answering

from .access import access_of
from .installation import ROOT
from .processes import StartError, asked_to_stop

FRONT_END = ROOT / "frontend" / "dist"
NOTED_IN = "sequor.log"


def _nothing() -> None:
    return


def answer(
    app: APIFlask,
    door: socket.socket,
    proxy: str | None,
    stop: threading.Event,
    begun: Callable[[], None] = _nothing,
    stopping: Callable[[], None] = _nothing,
) -> None:
    """Answer at a door until ``stop``; ``begun`` is called when it does, ``stopping`` before it ends. Raises
    StartError when the web server ends by itself."""
    with answering(app, door, proxy=proxy) as (_, thread):
        threading.Thread(target=_warm_up, daemon=True).start()
        begun()
        while not stop.wait(0.5):
            if not thread.is_alive():
                raise StartError("the web server stopped unexpectedly; see sequor.log in the data folder")
        stopping()


def _warm_up() -> None:
    """Compile the kernel before the first photographer waits for it."""
    resample(np.zeros((8, 8, 3), np.uint8), homography_warp(8, 8, np.eye(3), no_lens(8, 8)), 0.0, 0.0, 8, 8)


def main() -> int:
    """Answer, as one of several, at the door that was handed over; the exit status."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--door", type=int, required=True, help="the open socket, by its number")
    parser.add_argument("--proxy", metavar="ADDRESS")
    parser.add_argument("--of", type=int, required=True, help="how many answer, this one among them")
    options = parser.parse_args()
    stop = asked_to_stop()
    folder = Path(os.environ[DATA])
    note_in(logging.FileHandler(folder / NOTED_IN), logging.INFO)
    files, painter = os.environ.get(FILES), os.environ.get(PAINTER)
    store = Store(connect(os.environ[DATABASE]), folder, Objects(files) if files else None)
    app = create_app(
        store,
        Background(os.environ[BROKER]),
        FRONT_END,
        Painter(painter) if painter else None,
        access=access_of(store, os.environ[BROKER]),
        of=options.of,
    )
    answer(app, socket.socket(fileno=options.door), options.proxy, stop)
    return 0


if __name__ == "__main__":
    sys.exit(main())
