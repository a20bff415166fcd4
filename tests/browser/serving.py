"""The application served for a browser."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from pathlib import Path

from clients import Straight

from sequor.jobs.asking import WorkQueue
from sequor.painter.client import Painter
from sequor.store.database import Store
from sequor.web.accounts.network import ALONE, Access
from sequor.web.app import create_app
from sequor.web.serving import answering, listening

FRONT_END = Path(__file__).resolve().parents[2] / "frontend" / "dist"


@contextlib.contextmanager
def served(
    store: Store,
    queue: WorkQueue | None = None,
    painter: Painter | None = None,
    access: Access = ALONE,
) -> Iterator[str]:
    """The application over a store, for as long as it is wanted; without a queue work is done at once."""
    app = create_app(store, queue or Straight(store, painter), FRONT_END, painter, access=access)
    with answering(app, listening(0), patience=30) as (port, _):
        yield f"http://127.0.0.1:{port}"
