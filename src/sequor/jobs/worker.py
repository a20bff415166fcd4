"""The worker: ``celery -A sequor.jobs.worker worker``. A task calls one operation.

The broker, the database and the data folder come from its environment.
"""

from __future__ import annotations

import os
import resource
from functools import cache
from pathlib import Path

from celery.signals import worker_process_init

from sequor.operations import takes
from sequor.painter.client import Painter
from sequor.store.database import Store, connect

from .background import BROKER, DATA, DATABASE, MAKE_TAKES, PAINTER, queue
from .children import MEMORY_LIMIT, end_with_parent

app = queue(os.environ[BROKER])


@cache
def _store() -> Store:
    return Store(connect(os.environ[DATABASE]), Path(os.environ[DATA]))


@worker_process_init.connect  # type: ignore[untyped-decorator]
def _make_ready(**_: object) -> None:
    """Load what the first take would wait for; end with the worker, and stay within bounds of memory."""
    end_with_parent()
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_LIMIT, MEMORY_LIMIT))
    from sequor.core.fill import patchmatch
    from sequor.core.raster import lanczos

    assert lanczos and patchmatch


@app.task(name=MAKE_TAKES)  # type: ignore[untyped-decorator]
def make_takes(photo_id: int, key: str) -> None:
    """Make the wanted takes of one frame."""
    address = os.environ.get(PAINTER)
    takes.make(_store(), photo_id, key, Painter(address) if address else None)
