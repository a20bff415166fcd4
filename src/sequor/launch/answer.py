"""Answer at a door. Open to a network, several processes do: ``python -m sequor.launch.answer`` is one of
them. Alone, the start command does."""

from __future__ import annotations

import argparse
import logging
import os
import socket
import sys
import threading

import numpy as np

from sequor.core.distortion.models import no_lens
from sequor.core.raster.resample import resample
from sequor.core.warp.homography import homography_warp
from sequor.jobs.background import BROKER, Background
from sequor.jobs.given import given_painter, given_store
from sequor.jobs.logs import LOG, note_in
from sequor.web.app import create_app
from sequor.web.serving import answering

from .access import access_of
from .installation import ROOT
from .processes import StartError, asked_to_stop

FRONT_END = ROOT / "frontend" / "dist"


def warm_up() -> None:
    """Compile the kernel, beside what is done, before the first photographer waits for it."""
    threading.Thread(target=_warm_up, daemon=True).start()


def _warm_up() -> None:
    resample(np.zeros((8, 8, 3), np.uint8), homography_warp(8, 8, np.eye(3), no_lens(8, 8)), 0.0, 0.0, 8, 8)


def stay(stop: threading.Event, server: threading.Thread) -> None:
    """Until ``stop``. Raises StartError when the web server ends by itself."""
    while not stop.wait(0.5):
        if not server.is_alive():
            raise StartError(f"the web server stopped unexpectedly; see {LOG} in the data folder")


def main() -> int:
    """Answer, as one of several, at the door that was handed over; the exit status."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--door", type=int, required=True, help="the open socket, by its number")
    parser.add_argument("--proxy", metavar="ADDRESS")
    parser.add_argument("--of", type=int, required=True, help="how many answer, this one among them")
    options = parser.parse_args()
    stop = asked_to_stop()
    store, broker = given_store(), os.environ[BROKER]
    note_in(logging.FileHandler(store.folder / LOG), logging.INFO)
    access = access_of(store, broker)
    app = create_app(store, Background(broker), FRONT_END, given_painter(), access=access, of=options.of)
    with answering(app, socket.socket(fileno=options.door), proxy=options.proxy) as (_, server):
        warm_up()
        stay(stop, server)
    return 0


if __name__ == "__main__":
    sys.exit(main())
