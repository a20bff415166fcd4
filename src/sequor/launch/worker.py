"""``bin/worker``: workers on a further machine, over services that it shares with others."""

from __future__ import annotations

import argparse
import logging
import sys
from collections.abc import Sequence
from pathlib import Path

from sqlalchemy import Engine

from sequor.jobs.background import WORKERS
from sequor.jobs.logs import note_in
from sequor.store.database import NewerDatabaseError, Store, connect, schema_now

from .background import Services
from .installation import ROOT
from .outside import SharedDatabase, shared, shared_options
from .painter import painter_at, refuse_odd
from .processes import StartError, asked_to_stop

DATA = ROOT / ".sequor-worker"


def main(arguments: Sequence[str] | None = None) -> int:
    """Work until stopped; the exit status."""
    options = _parser().parse_args(arguments)
    try:
        return _run(options)
    except StartError as error:
        print(f"The worker cannot start: {error}", file=sys.stderr)
        return 1


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="bin/worker",
        description="Do the work of a Sequor that runs elsewhere, over the services it shares.",
    )
    shared_options(parser)
    parser.add_argument(
        "--data", type=Path, default=DATA, help="this machine's folder for copies (.sequor-worker)"
    )
    parser.add_argument(
        "--lanes",
        default=",".join(WORKERS),
        help=f"which workers, separated by commas ({', '.join(WORKERS)}; all)",
    )
    parser.add_argument(
        "--painter", metavar="ADDRESS", help="external painting service: http://host:port (default: none)"
    )
    parser.add_argument(
        "--at-once",
        type=int,
        metavar="N",
        help="how much each worker does at once (bulk: the cores, fill: 1)",
    )
    return parser


def _run(options: argparse.Namespace) -> int:
    where = shared(options)
    if where is None:
        raise StartError("name what it works on with --database, --broker and --files")
    refuse_odd(options.painter)
    if options.at_once is not None and not 1 <= options.at_once <= 256:
        raise StartError("--at-once takes a number from 1 to 256")
    lanes = [one.strip() for one in options.lanes.split(",") if one.strip()]
    if not lanes or not set(lanes) <= WORKERS.keys():
        raise StartError(f"--lanes takes {', '.join(WORKERS)}")
    stop = asked_to_stop()
    folder: Path = options.data.resolve()
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    note_in(logging.FileHandler(folder / "worker.log"), logging.INFO)
    objects = where.objects()
    where.look()
    database = SharedDatabase(where.database, folder / "database")
    try:
        engine = connect(database.url)
        _refuse_other_schema(engine)
        store = Store(engine, folder, objects)
        with painter_at(options.painter, folder) as painter:
            services = Services(store, database.url, painter, where.broker, lanes, options.at_once)
            try:
                services.watch()
                print(f"Working: {', '.join(lanes)}. Press Ctrl-C to stop.", flush=True)
                stop.wait()
            finally:
                services.stop()
        engine.dispose()
    finally:
        database.stop()
    return 0


def _refuse_other_schema(engine: Engine) -> None:
    """A worker migrates nothing: it would change the database under programs that run."""
    try:
        now, newest = schema_now(engine)
    except NewerDatabaseError as error:
        raise StartError(f"the database was made by a newer Sequor ({error}); start that one") from None
    if now != newest:
        raise StartError(
            f"the database has schema {now}, this worker knows {newest}; start bin/start of this version once"
        )


if __name__ == "__main__":
    sys.exit(main())
