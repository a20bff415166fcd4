"""An empty store on a database of its own, for as long as it is needed."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sequor.launch.mariadb import MariaDB
from sequor.store.database import Store, connect, migrate


@contextmanager
def installation() -> Iterator[tuple[Store, MariaDB]]:
    """The store and its database; all of it is gone afterwards."""
    with tempfile.TemporaryDirectory() as folder:
        database = MariaDB(Path(folder) / "database")
        try:
            engine = connect(database.url)
            migrate(engine)
            yield Store(engine, Path(folder) / "data"), database
            engine.dispose()
        finally:
            database.stop()


@contextmanager
def empty_store() -> Iterator[Store]:
    """The store alone."""
    with installation() as (store, _):
        yield store
