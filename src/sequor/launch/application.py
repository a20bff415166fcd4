"""The application of one start: schema, demo photos, web server."""

from __future__ import annotations

import contextlib
import os
import shutil
import sys
import threading
from pathlib import Path

import numpy as np
from apiflask import APIFlask
from sqlalchemy import select
from waitress.server import create_server

from sequor.core.lens import no_lens
from sequor.core.mapping import Mapping
from sequor.core.resample import resample
from sequor.jobs.children import Jobs
from sequor.operations.importing import inspect, register
from sequor.operations.takes import forget_first_looks
from sequor.painter.client import Painter
from sequor.store.database import Store, connect, migrate
from sequor.store.models import Photo, Take
from sequor.web.app import create_app

from .background import Helpers
from .mariadb import StartError

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


def run(
    url: str,
    folder: Path,
    root: Path,
    port: int,
    demo: bool,
    stop: threading.Event,
    painter: Painter | None = None,
) -> None:
    """Migrate the schema, load the demo photos on the first start, and serve until ``stop``."""
    engine = connect(url)
    migrate(engine)
    store = Store(engine, folder)
    jobs = Jobs(store.work)
    _reconcile(store)
    forget_first_looks(store)
    if demo:
        load_demo(store, root / "demo" / "photos")
    helpers = Helpers(store, url, painter)
    try:
        pages = root / "frontend" / "dist"
        app = create_app(store, jobs, helpers.background, pages, painter)
        _serve(app, jobs, port, stop)
    finally:
        helpers.stop()
    engine.dispose()


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


def _serve(app: APIFlask, jobs: Jobs, port: int, stop: threading.Event) -> None:
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
    # Whoever listened may be gone; that must not keep the program from ending.
    with contextlib.suppress(OSError):
        os.write(1, b"Stopping.\n")
    jobs.close()
    server.close()


def _warm_up(jobs: Jobs) -> None:
    """Compile the kernel and load the libraries before the first photographer waits for them."""
    jobs.warm_up()
    resample(np.zeros((8, 8, 3), np.uint8), Mapping(8, 8, np.eye(3), no_lens(8, 8)), 0.0, 0.0, 8, 8)


def _reconcile(store: Store) -> None:
    with store.transaction() as session:
        known = list(session.scalars(select(Photo.sha256)))
        made = session.scalars(select(Take.parts).where(Take.state == "done"))
        patches = [part["sha256"] for parts in made for part in parts]
    store.patches.reconcile(patches)
    for sha256 in store.originals.reconcile(known):
        print(
            f"The original {sha256[:12]}… of a photo is missing from {store.originals.folder}",
            file=sys.stderr,
        )
