"""Services that several machines share: a database, a broker and an object store that run elsewhere."""

from __future__ import annotations

import argparse
import os
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

import redis
from sqlalchemy import text
from sqlalchemy.engine import URL, make_url
from sqlalchemy.exc import ArgumentError, SQLAlchemyError

from sequor.jobs.background import BROKER, DATABASE, FILES
from sequor.store.database import connect
from sequor.store.objects import Objects, ObjectsGoneError

from .processes import StartError, run_folder

NAME = "sequor"
OPTIONS = {
    DATABASE: ("--database", "a shared MariaDB: mysql://user@host:port/sequor"),
    BROKER: ("--broker", "a shared Redis: redis://host:port/0"),
    FILES: ("--files", "a shared object store: s3://bucket?endpoint=http://host:port"),
}
PASSWORD = "SEQUOR_DATABASE_PASSWORD"


class Database(Protocol):
    """A database that is reached: ``url`` for the program, ``client``: a file of options for MariaDB's own
    programs, ``folder``: where what is written out of it lies."""

    folder: Path

    @property
    def url(self) -> str:
        """The SQLAlchemy URL."""

    @property
    def client(self) -> Path:
        """The file of options."""

    def stop(self) -> None:
        """Let it go."""


@dataclass(frozen=True)
class Shared:
    """The addresses of shared services: all three, or none of them."""

    database: str
    broker: str
    files: str

    def objects(self) -> Objects:
        """The object store, looked whether it answers. Raises StartError."""
        try:
            found = Objects(self.files)
            found.size("sequor")
        except ValueError as error:
            raise StartError(str(error)) from None
        except ObjectsGoneError as error:
            raise StartError(f"{error}; see --files") from None
        return found

    def look(self) -> None:
        """Look whether the broker answers. Raises StartError."""
        try:
            with redis.Redis.from_url(self.broker, socket_connect_timeout=10) as client:
                client.ping()
        except (redis.RedisError, ValueError) as error:
            raise StartError(f"the broker does not answer ({error}); see --broker") from None


class SharedDatabase:
    """The database of an address, with a folder for what is written out of it. Raises StartError."""

    def __init__(self, address: str, folder: Path) -> None:
        self.folder = folder
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        try:
            parts = make_url(address)
        except ArgumentError:
            raise StartError(f"{address} is no address of a database; see --database") from None
        if parts.database != NAME or parts.get_backend_name() not in ("mysql", "mariadb"):
            raise StartError("the shared database must be a MariaDB with the name sequor; see --database")
        password = os.environ.get(PASSWORD) or parts.password
        self._url = parts.set(
            drivername="mysql+pymysql", password=password, query={**parts.query, "charset": "utf8mb4"}
        )
        try:
            with connect(self.url).connect() as connection:
                connection.execute(text("SELECT 1"))
        except SQLAlchemyError as error:
            why = str(getattr(error, "orig", error)).splitlines()[0]
            raise StartError(f"the database does not answer ({why}); see --database") from None
        self.client = run_folder(folder) / "client.cnf"
        self._write_client(self._url)

    @property
    def url(self) -> str:
        """The SQLAlchemy URL, with its password."""
        return self._url.render_as_string(hide_password=False)

    def stop(self) -> None:
        """Nothing of ours runs."""
        self.client.unlink(missing_ok=True)

    def _write_client(self, url: URL) -> None:
        told = {"host": url.host, "port": url.port, "user": url.username, "password": url.password}
        lines = [f'{name}="{value}"' for name, value in told.items() if value]
        self.client.touch(mode=0o600)
        self.client.chmod(0o600)
        self.client.write_text("\n".join(["[client]", "protocol=tcp", *lines, ""]))


def shared_options(parser: argparse.ArgumentParser) -> None:
    """The options of commands that may work on shared services; their values may be in the environment."""
    for variable, (option, words) in OPTIONS.items():
        parser.add_argument(
            option, metavar="ADDRESS", default=os.environ.get(variable), help=f"{words} (${variable})"
        )


def shared(options: argparse.Namespace) -> Shared | None:
    """The shared services that were named; None for none. Raises StartError when some are missing."""
    found = (options.database, options.broker, options.files)
    if not any(found):
        return None
    if not all(found):
        raise StartError("--database, --broker and --files belong together; name all three or none")
    return Shared(*found)
