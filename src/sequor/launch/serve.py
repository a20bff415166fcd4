"""``bin/start``: the whole application on this computer."""

from __future__ import annotations

import argparse
import errno
import importlib
import logging
import socket
import sys
import tempfile
import threading
from collections.abc import Sequence
from pathlib import Path

from sequor.jobs.logs import LOG, note_in

from .door import Door, refuse_odd_address
from .mariadb import MariaDB
from .outside import Database, Shared, SharedDatabase, shared, shared_options
from .painter import painter_at, refuse_odd
from .processes import StartError, asked_to_stop

ROOT = Path(__file__).resolve().parents[3]


def main(arguments: Sequence[str] | None = None) -> int:
    """Start everything, serve until stopped, stop everything; the exit status."""
    options = _parser().parse_args(arguments)
    try:
        return _run(options)
    except StartError as error:
        print(f"Sequor cannot start: {error}", file=sys.stderr)
        return 1
    except OSError as error:
        reason = (
            f"the disk of {options.data} is full; make room and start again"
            if error.errno == errno.ENOSPC
            else f"{error.strerror}: {error.filename or options.data}"
        )
        print(f"Sequor cannot start: {reason}", file=sys.stderr)
        return 1


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="bin/start", description="Start Sequor on this computer.")
    parser.add_argument("--port", type=int, default=8765, help="the port to serve on (8765)")
    parser.add_argument("--data", type=Path, default=ROOT / ".sequor", help="the data folder (.sequor)")
    parser.add_argument("--no-demo", action="store_true", help="do not load the demo photos")
    parser.add_argument(
        "--painter",
        metavar="ADDRESS",
        help="external painting service: http://host:port, or “stand-in” for the simulated one "
        "(default: none)",
    )
    parser.add_argument(
        "--exports",
        type=Path,
        metavar="FOLDER",
        help="a folder that exports of many photos can be put into (default: none, a ZIP file is downloaded)",
    )
    shared_options(parser)
    network = parser.add_argument_group("a network", "with sign-in; see docs/security.md")
    network.add_argument(
        "--listen", metavar="ADDRESS", help="the address to answer at, for people who have an account"
    )
    network.add_argument(
        "--proxy", metavar="ADDRESS", help="the address of the reverse proxy whose headers are believed"
    )
    network.add_argument(
        "--add-user", metavar="NAME", help="add an account, or give it a new password, and end"
    )
    network.add_argument("--most-gb", type=float, metavar="N", help="the photos that account may keep (100)")
    network.add_argument("--most-jobs", type=int, metavar="N", help="the jobs it may have at a time (20000)")
    return parser


def _run(options: argparse.Namespace) -> int:
    if not 0 < options.port < 65536:
        raise StartError(f"{options.port} is not a usable port; choose one from 1024 to 65535")
    refuse_odd(options.painter)
    where = shared(options)
    folder: Path = options.data.resolve()
    if options.add_user is not None:
        _own(folder)
        return _add_user(options, folder, where)
    refuse_odd_address(options.listen, "--listen")
    refuse_odd_address(options.proxy, "--proxy")
    if options.listen is None and options.proxy is not None:
        raise StartError("--proxy says whose headers are believed about people; it goes with --listen")
    if options.listen is not None and options.exports is not None:
        raise StartError(
            "--exports names a folder of whoever sits at this computer, which people who sign in are not; "
            "leave it out with --listen"
        )
    door = Door(options.port, options.listen or "127.0.0.1", options.proxy, options.listen is not None)
    _refuse_taken(door)
    if where is not None and options.exports is not None:
        raise StartError(
            "--exports names a folder of this computer, which workers on others do not have; leave it out "
            "where machines share the work"
        )
    exports = None if options.exports is None else _folder_for_exports(options.exports)
    stop = asked_to_stop()
    _own(folder)
    note_in(logging.FileHandler(folder / LOG), logging.INFO)
    logging.getLogger("alembic").setLevel(logging.WARNING)
    # The libraries load while the database comes up, which belongs to this thread and ends with it.
    loading = threading.Thread(target=importlib.import_module, args=("sequor.launch.application",))
    loading.start()
    try:
        database: Database
        if where is None:
            database = MariaDB(folder / "database")
        else:
            where.look()
            database = SharedDatabase(where.database, folder / "database")
    finally:
        loading.join()
    try:
        from . import application

        with painter_at(options.painter, folder) as painter:
            demo = not options.no_demo
            application.run(database, folder, ROOT, door, demo, stop, painter, exports, where)
    finally:
        database.stop()
    return 0


def _add_user(options: argparse.Namespace, folder: Path, where: Shared | None) -> int:
    # Not at the top: it loads all of the application, which a start does while the database comes up.
    from .network import add_user

    return add_user(options, folder, where)


def _own(folder: Path) -> None:
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    folder.chmod(0o700)


def _folder_for_exports(folder: Path) -> Path:
    """The folder, made if it has to be. Raises StartError when nothing can be written to it."""
    folder = folder.expanduser().resolve()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryFile(dir=folder):
            return folder
    except OSError as error:
        raise StartError(
            f"nothing can be written to {folder} ({error.strerror}); choose another folder with --exports"
        ) from None


def _refuse_taken(door: Door) -> None:
    with socket.socket(socket.AF_INET6 if ":" in door.address else socket.AF_INET) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((door.address, door.port))
        except OSError as error:
            why = (
                "is already in use"
                if error.errno == errno.EADDRINUSE
                else f"cannot be used ({error.strerror})"
            )
            raise StartError(f"port {door.port} {why}; choose another with --port") from None


if __name__ == "__main__":
    sys.exit(main())
