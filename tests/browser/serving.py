"""The application served for a browser."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Iterator
from pathlib import Path

from clients import Straight
from waitress.server import create_server

from sequor.jobs.asking import WorkQueue
from sequor.painter.client import Painter
from sequor.store.database import Store
from sequor.web.app import create_app

FRONT_END = Path(__file__).resolve().parents[2] / "frontend" / "dist"


@contextlib.contextmanager
def served(store: Store, queue: WorkQueue | None = None, painter: Painter | None = None) -> Iterator[str]:
    """The application over a store, for as long as it is wanted; without a queue work is done at once."""
    server = create_server(
        create_app(store, queue or Straight(store, painter), FRONT_END, painter),
        host="127.0.0.1",
        port=0,
        threads=8,
    )

    def serve() -> None:
        # Closing the server under its select is how waitress is stopped from another thread.
        with contextlib.suppress(OSError):
            server.run()

    threading.Thread(target=serve, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{server.effective_port}"
    finally:
        # What is being answered is ended first: its threads would stumble over what is closed under them.
        server.task_dispatcher.shutdown(timeout=30)
        server.close()
