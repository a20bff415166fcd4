"""The connection to MariaDB and the migration of its schema."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine
from sqlalchemy.orm import Session

from .files import Originals, Patches


def connect(url: str) -> Engine:
    """The engine for a database URL."""
    return create_engine(
        url, pool_pre_ping=True, pool_recycle=1800, pool_size=12, isolation_level="READ COMMITTED"
    )


def migration_config(engine: Engine) -> Config:
    """Alembic's configuration, without a file of its own."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.attributes["engine"] = engine
    return config


def migrate(engine: Engine) -> None:
    """Bring the schema to the newest version."""
    command.upgrade(migration_config(engine), "head")


class Store:
    """The database and the data folder of one installation."""

    def __init__(self, engine: Engine, folder: Path) -> None:
        self.engine = engine
        self.folder = folder
        self.originals = Originals(folder / "originals")
        self.patches = Patches(folder / "patches")
        self.rough = folder / "rough"
        self.screen = folder / "screen"
        self.work = folder / "work"
        for path in (self.originals.folder, self.patches.folder, self.rough, self.screen, self.work):
            path.mkdir(parents=True, exist_ok=True)

    @contextmanager
    def transaction(self) -> Iterator[Session]:
        """One session, committed at the end or rolled back as a whole."""
        with Session(self.engine, expire_on_commit=False) as session, session.begin():
            yield session
