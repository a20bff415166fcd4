"""``bin/start``: the whole application on this computer."""

from __future__ import annotations

import argparse
import contextlib
import errno
import logging
import shutil
import signal
import socket
import sys
import threading
from collections.abc import Sequence
from pathlib import Path
from types import FrameType

import numpy as np
from sqlalchemy import select
from waitress.server import create_server

from sequor.core.mapping import Mapping
from sequor.core.resample import resample
from sequor.jobs.children import Jobs
from sequor.operations.importing import inspect, register
from sequor.store.database import Store, connect, migrate
from sequor.store.models import Photo
from sequor.web.app import create_app

from .mariadb import MariaDB, StartError

ROOT = Path(__file__).resolve().parents[3]
DEMO_DONE = "demo-loaded"
DEMO_ORDER = ("shore", "mill", "village", "tower", "viaduct", "glasshouse")
DEMO_TITLES = {
    "shore": "Reservoir shore",
    "mill": "Grain mill, front",
    "village": "Hill village",
    "tower": "Water tower",
    "viaduct": "Viaduct from the meadow",
    "glasshouse": "Glasshouse",
}


def main(arguments: Sequence[str] | None = None) -> int:
    """Start everything, serve until stopped, stop everything; the exit status."""
    options = _parser().parse_args(arguments)
    try:
        return _run(options)
    except StartError as error:
        print(f"Sequor cannot start: {error}", file=sys.stderr)
        return 1
    except OSError as error:
        reason = (
            f"the disk of {options.data} is full; make room and start again"
            if error.errno == errno.ENOSPC
            else f"{error.strerror}: {error.filename or options.data}"
        )
        print(f"Sequor cannot start: {reason}", file=sys.stderr)
        return 1


def load_demo(store: Store, photos: Path) -> None:
    """The demo photos, on the first start only; one that was removed stays away."""
    marker = store.folder / DEMO_DONE
    if marker.exists():
        return
    for name in DEMO_ORDER:
        folder = store.work / f"demo-{name}"
        folder.mkdir(parents=True, exist_ok=True)
        file = folder / "file"
        shutil.copyfile(photos / f"wendlow_{name}.jpg", file)
        found = inspect(file, folder / "screen", lambda share, words: None)
        imported = register(store, file, folder / "screen", found, f"wendlow_{name}.jpg")
        with store.transaction() as session:
            session.get_one(Photo, imported.photo_id).title = DEMO_TITLES[name]
        shutil.rmtree(folder)
    marker.write_text("1\n")


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="bin/start", description="Start Sequor on this computer.")
    parser.add_argument("--port", type=int, default=8765, help="the port to serve on (8765)")
    parser.add_argument("--data", type=Path, default=ROOT / ".sequor", help="the data folder (.sequor)")
    parser.add_argument("--no-demo", action="store_true", help="do not load the demo photos")
    return parser


def _run(options: argparse.Namespace) -> int:
    if not 0 < options.port < 65536:
        raise StartError(f"{options.port} is not a port; choose one from 1024 to 65535")
    _refuse_taken(options.port)
    stop = threading.Event()

    def ask_to_stop(number: int, frame: FrameType | None) -> None:
        stop.set()

    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, ask_to_stop)
    folder: Path = options.data.resolve()
    folder.mkdir(parents=True, exist_ok=True)
    logging.basicConfig(
        filename=folder / "sequor.log",
        level=logging.INFO,
        format="%(asctime)s %(levelname)s %(name)s %(message)s",
    )
    logging.getLogger("alembic").setLevel(logging.WARNING)
    database = MariaDB(folder / "database")
    try:
        engine = connect(database.url)
        migrate(engine)
        store = Store(engine, folder)
        jobs = Jobs(store.work)
        _reconcile(store)
        if not options.no_demo:
            load_demo(store, ROOT / "demo" / "photos")
        _serve(store, jobs, options.port, stop)
        engine.dispose()
    finally:
        database.stop()
    return 0


def _serve(store: Store, jobs: Jobs, port: int, stop: threading.Event) -> None:
    app = create_app(store, jobs, ROOT / "frontend" / "dist")
    server = create_server(
        app, host="127.0.0.1", port=port, threads=8, ident=None, max_request_body_size=420_000_000
    )

    def serve() -> None:
        # Closing the server under its select is how waitress is stopped from another thread.
        with contextlib.suppress(OSError):
            server.run()

    thread = threading.Thread(target=serve, daemon=True)
    thread.start()
    threading.Thread(target=_warm_up, args=(jobs,), daemon=True).start()
    print(f"Sequor is ready: http://127.0.0.1:{port}/   (Ctrl-C stops it)", flush=True)
    while not stop.wait(0.5):
        if not thread.is_alive():
            raise StartError("the web server stopped unexpectedly; see sequor.log in the data folder")
    print("Stopping.", flush=True)
    jobs.close()
    server.close()


def _warm_up(jobs: Jobs) -> None:
    """Compile the kernel and load the libraries before the first photographer waits for them."""
    jobs.warm_up()
    resample(np.zeros((8, 8, 3), np.uint8), Mapping(8, 8, np.eye(3)), 0.0, 0.0, 8, 8)


def _reconcile(store: Store) -> None:
    with store.transaction() as session:
        known = list(session.scalars(select(Photo.sha256)))
    for sha256 in store.originals.reconcile(known):
        print(
            f"The original {sha256[:12]}… of a photo is missing from {store.originals.folder}",
            file=sys.stderr,
        )


def _refuse_taken(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as error:
            why = "is in use" if error.errno == errno.EADDRINUSE else f"cannot be used ({error.strerror})"
            raise StartError(f"port {port} {why}; choose another with --port") from None


if __name__ == "__main__":
    sys.exit(main())
