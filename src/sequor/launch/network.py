"""Accounts, as whoever keeps the installation adds them."""

from __future__ import annotations

import argparse
import getpass
import sys
from pathlib import Path

from sequor.operations.accounts import (
    MOST_BYTES,
    MOST_JOBS,
    PasswordRefusedError,
    first_account,
    put_account,
)
from sequor.store.database import connect
from sequor.store.owners import NOBODY

from .application import bring_schema_up
from .installation import installation
from .mariadb import MariaDB
from .outside import Shared
from .processes import StartError


def add_user(options: argparse.Namespace, folder: Path, where: Shared | None) -> int:
    """Add the account that is named, or give it a new password; the exit status. Raises StartError."""
    if where is None and not (folder / "database").is_dir():
        database = MariaDB(folder / "database")
        try:
            bring_schema_up(connect(database.url), database)
        finally:
            database.stop()
    with installation(folder, where) as here:
        if here.running and where is None and first_account(here.store) == NOBODY:
            raise StartError("the first account takes over all photos; stop Sequor before you add it")
        try:
            new = put_account(here.store, options.add_user, _password(), *_limits(options))
        except (PasswordRefusedError, ValueError) as error:
            raise StartError(f"{str(error).rstrip('.')}. No account was changed") from None
    print(f"{options.add_user}: " + ("added" if new else "has a new password; all its sessions have ended"))
    return 0


def _password() -> str:
    """Typed twice, or a line of what is piped in. Raises StartError."""
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\n")
    first = getpass.getpass("Password, 12 characters or more: ")
    if getpass.getpass("Once more: ") != first:
        raise StartError("these were two different passwords. No account was changed")
    return first


def _limits(options: argparse.Namespace) -> tuple[int, int]:
    gb, jobs = options.most_gb, options.most_jobs
    if (gb is not None and gb <= 0) or (jobs is not None and jobs <= 0):
        raise StartError("--most-gb and --most-jobs are numbers above 0. No account was changed")
    return MOST_BYTES if gb is None else int(gb * 1e9), MOST_JOBS if jobs is None else jobs
