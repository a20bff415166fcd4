"""The connection to MariaDB and the migration of its schema."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session
from sqlalchemy.orm.exc import StaleDataError

from .files import Originals, Patches
from .objects import Objects
from .owners import OwnSession

DEADLOCK, LOCK_WAIT_OVER = 1213, 1205
"""MariaDB's numbers for two writers of which one was let go."""
CHANGED = (
    "This photo was changed in another window, so your last change "
    "was not saved. Load the latest and repeat it"
)


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


class NewerDatabaseError(Exception):
    """The schema was made by a newer program."""


def schema_now(engine: Engine) -> tuple[str | None, str]:
    """The version of the schema, None for an empty database, and the newest one.

    Raises NewerDatabaseError for one that this program does not know.
    """
    scripts = ScriptDirectory.from_config(migration_config(engine))
    newest = scripts.get_current_head()
    assert newest is not None
    with engine.connect() as connection:
        now = MigrationContext.configure(connection).get_current_revision()
    if now is not None and now not in {script.revision for script in scripts.walk_revisions()}:
        raise NewerDatabaseError(f"its schema is {now}, this program knows up to {newest}")
    return now, newest


def migrate(engine: Engine) -> None:
    """Bring the schema to the newest version. Raises NewerDatabaseError, SQLAlchemyError."""
    schema_now(engine)
    command.upgrade(migration_config(engine), "head")


class ChangedMeanwhileError(Exception):
    """A row was changed elsewhere since it was read."""


@contextmanager
def only_one(engine: Engine, name: str, seconds: int) -> Iterator[bool]:
    """Whether nobody else is at what has this name, of 64 characters at most, or no longer after so many
    seconds; a dead process lets go."""
    with engine.connect() as connection:
        asked = {"name": name, "seconds": seconds}
        alone = bool(connection.scalar(text("SELECT GET_LOCK(:name, :seconds)"), asked))
        try:
            yield alone
        finally:
            if alone:
                connection.execute(text("SELECT RELEASE_LOCK(:name)"), {"name": name})


class Store:
    """The database and the data folder of one installation; with ``objects``, what of the folder other
    machines are to see lies there."""

    def __init__(self, engine: Engine, folder: Path, objects: Objects | None = None) -> None:
        self.engine = engine
        self.folder, self.objects = folder, objects
        self.originals = Originals(folder / "originals", objects)
        self.patches = Patches(folder / "patches", objects)
        self.rough = folder / "rough"
        self.screen = folder / "screen"
        self.work = folder / "work"
        self.looks = folder / "looks"
        own = (self.rough, self.screen, self.work, self.looks)
        for path in (self.originals.folder, self.patches.folder, *own):
            path.mkdir(parents=True, exist_ok=True)

    @contextmanager
    def only_one(self, name: str) -> Iterator[bool]:
        """Whether nobody else is at what has this name, of 64 characters at most; a dead process lets go."""
        with only_one(self.engine, name, 2) as alone:
            yield alone

    @contextmanager
    def transaction(self) -> Iterator[Session]:
        """One session, committed at the end or rolled back as a whole.

        Raises ChangedMeanwhileError when a row that counts its changes is no longer the one that was read.
        """
        try:
            with OwnSession(self.engine, expire_on_commit=False) as session, session.begin():
                yield session
        except StaleDataError:
            raise ChangedMeanwhileError(CHANGED) from None
        except OperationalError as error:
            if error.orig is not None and error.orig.args[:1] in ((DEADLOCK,), (LOCK_WAIT_OVER,)):
                raise ChangedMeanwhileError(CHANGED) from None
            raise
