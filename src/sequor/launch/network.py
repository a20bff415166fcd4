"""Accounts, as whoever keeps the installation adds them."""

from __future__ import annotations

import argparse
import getpass
import sys
from pathlib import Path

from sequor.operations.accounts import PasswordRefusedError, first_account, put_account
from sequor.store.database import NewerDatabaseError, connect, schema_now
from sequor.store.owners import NOBODY

from .application import bring_schema_up
from .installation import installation
from .mariadb import MariaDB
from .outside import Shared, SharedDatabase
from .processes import StartError

MOST_GB, MOST_JOBS = 1e9, 2**31


def add_user(options: argparse.Namespace, folder: Path, where: Shared | None) -> int:
    """Add the account that is named, or give it a new password; the exit status. Raises StartError."""
    if where is not None or not (folder / "database").is_dir():
        _begin(folder / "database", where)
    with installation(folder, where) as here:
        if here.running and where is None and first_account(here.store) == NOBODY:
            raise StartError("the first account takes over all photos; stop Sequor before you add it")
        try:
            new = put_account(here.store, options.add_user, _password(), *_limits(options))
        except (PasswordRefusedError, ValueError) as error:
            raise StartError(f"{str(error).rstrip('.')}. No account was changed") from None
    print(f"{options.add_user}: " + ("added" if new else "has a new password; all its sessions have ended"))
    return 0


def _begin(folder: Path, where: Shared | None) -> None:
    """Make a database that holds nothing yet ready for its first account. Raises StartError."""
    database = MariaDB(folder) if where is None else SharedDatabase(where.database, folder)
    try:
        engine = connect(database.url)
        if schema_now(engine)[0] is None:
            bring_schema_up(engine, database)
        engine.dispose()
    except NewerDatabaseError as error:
        raise StartError(f"the data in {folder.parent} was made by a newer Sequor ({error})") from None
    finally:
        database.stop()


def _password() -> str:
    """Typed twice, or a line of what is piped in. Raises StartError."""
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\n")
    first = getpass.getpass("Password, 12 characters or more: ")
    if getpass.getpass("Once more: ") != first:
        raise StartError("these were two different passwords. No account was changed")
    return first


def _limits(options: argparse.Namespace) -> tuple[int | None, int | None]:
    gb, jobs = options.most_gb, options.most_jobs
    if (gb is not None and not 0 < gb < MOST_GB) or (jobs is not None and not 0 < jobs < MOST_JOBS):
        raise StartError("--most-gb and --most-jobs are numbers above 0. No account was changed")
    return None if gb is None else int(gb * 1e9), jobs
