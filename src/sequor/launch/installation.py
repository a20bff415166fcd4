"""One installation for the commands that keep it: the running database, or one that is started for them."""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from sequor.store.database import NewerDatabaseError, Store, connect, schema_now

from .mariadb import MariaDB
from .outside import Shared, SharedDatabase, shared_options
from .processes import StartError

ROOT = Path(__file__).resolve().parents[3]
DEFAULT_DATA = ROOT / ".sequor"


@dataclass(frozen=True)
class Installation:
    """The store, the address of its database, the file of options by which MariaDB's programs reach it,
    whether the program itself is running, and the broker that it shares with other machines."""

    store: Store
    url: str
    client: Path
    running: bool
    broker: str | None = None


@contextmanager
def installation(data: Path, where: Shared | None = None) -> Iterator[Installation]:
    """The installation in a data folder, whether the program runs or not, or the one over shared services.
    Raises StartError."""
    folder = data / "database"
    if where is not None:
        shared = SharedDatabase(where.database, folder)
        try:
            yield _checked(shared.url, shared.client, data, True, where)
        finally:
            shared.stop()
        return
    if not folder.is_dir():
        raise StartError(f"there is no Sequor data in {data}; name its folder with --data")
    try:
        database = MariaDB(folder)
    except StartError:
        running = _running(folder)
        if running is None:
            raise
        yield _checked(*running, data, True)
        return
    try:
        yield _checked(database.url, database.client, data, False)
    finally:
        database.stop()


def _checked(url: str, client: Path, data: Path, running: bool, where: Shared | None = None) -> Installation:
    engine = connect(url)
    try:
        now, newest = schema_now(engine)
    except NewerDatabaseError as error:
        raise StartError(f"the data in {data} was made by a newer Sequor ({error})") from None
    if now != newest and now is not None:
        raise StartError(f"the data in {data} is of an earlier Sequor; start this one once to bring it up")
    objects, broker = (None, None) if where is None else (where.objects(), where.broker)
    return Installation(Store(engine, data, objects), url, client, running, broker)


def _running(folder: Path) -> tuple[str, Path] | None:
    try:
        told = json.loads((folder / "running.json").read_text())
        os.kill(told["pid"], 0)
        return told["url"], Path(told["client"])
    except (OSError, ValueError, KeyError):
        return None


def data_option(parser: argparse.ArgumentParser) -> None:
    """The options that every command about an installation has."""
    parser.add_argument("--data", type=Path, default=DEFAULT_DATA, help="the data folder (.sequor)")
    shared_options(parser)


def told(command: Callable[[], int]) -> int:
    """Run a command; what stands in its way is one line, and the exit status 2."""
    try:
        return command()
    except StartError as error:
        print(error, file=sys.stderr)
    except OSError as error:
        print(f"{error.strerror or error}: {error.filename or ''}".rstrip(": "), file=sys.stderr)
    return 2
