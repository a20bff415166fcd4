"""The database as a text of SQL, written and read by MariaDB's own programs."""

from __future__ import annotations

import subprocess
from pathlib import Path

from .mariadb import program
from .processes import StartError


def dump(client: Path, file: Path) -> None:
    """Write the application's database as it is in one moment, also while it is worked on.

    ``client``: the options by which it is reached. Raises StartError.
    """
    command = [program("mariadb-dump"), f"--defaults-file={client}", "--single-transaction"]
    command += ["--skip-lock-tables", "--no-tablespaces", "--default-character-set=utf8mb4"]
    command += ["--skip-dump-date", "sequor"]
    with file.open("wb") as out:
        _run(command, "the database could not be written out", stdout=out)


def load(client: Path, file: Path) -> None:
    """Make the application's database what a dump says; what it held before is gone. Raises StartError."""
    command = [program("mariadb"), f"--defaults-file={client}", "--default-character-set=utf8mb4"]
    empty = "DROP DATABASE IF EXISTS sequor; CREATE DATABASE sequor CHARACTER SET utf8mb4;"
    _run([*command, "-e", empty], "the database could not be emptied")
    with file.open("rb") as text:
        _run([*command, "sequor"], f"{file.name} could not be read into the database", stdin=text)


def _run(command: list[str], failed: str, **streams: object) -> None:
    done = subprocess.run(command, stderr=subprocess.PIPE, check=False, **streams)  # type: ignore[call-overload]
    if done.returncode:
        reason = done.stderr.decode(errors="replace").strip().splitlines()
        raise StartError(f"{failed}: {reason[-1] if reason else 'no reason was given'}")
