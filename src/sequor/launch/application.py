"""The application of one start: schema, demo photos, web server."""

from __future__ import annotations

import contextlib
import os
import shutil
import sys
import threading
from collections.abc import Mapping
from pathlib import Path

from apiflask import APIFlask
from sqlalchemy import Engine

from sequor.jobs.jobs import tidy
from sequor.jobs.looks import ask_for_looks
from sequor.operations import checking
from sequor.operations.importing import inspect, register
from sequor.operations.photos import look_through
from sequor.operations.takes import forget_first_looks
from sequor.painter.client import Painter
from sequor.store.database import NewerDatabaseError, Store, connect, migrate, only_one, schema_now
from sequor.store.files import content_hash, write_whole
from sequor.store.models import Photo
from sequor.store.owners import acting_for
from sequor.store.room import RESERVE, refuse_without_room
from sequor.web.app import create_app
from sequor.web.serving import answering, listening

from .access import access_of
from .answer import FRONT_END, stay, warm_up
from .background import Services, broker_of
from .door import Door
from .dump import dump, load
from .outside import Database, Shared
from .processes import StartError
from .servers import Servers

SCHEMA, SCHEMA_SECONDS = "sequor schema", 1800
"""Under this name one program migrates, and for so long others wait for it."""
DEMO_DONE = "demo-loaded"
DEMO_BYTES = 36_000_000
DEMO_TITLES = {
    "wendlow_shore.jpg": "Reservoir shore",
    "wendlow_mill.jpg": "Grain mill, front",
    "wendlow_village.jpg": "Hill village",
    "wendlow_tower.jpg": "Water tower",
    "wendlow_viaduct.jpg": "Viaduct from the meadow",
    "wendlow_glasshouse.jpg": "Glasshouse",
    "wendlow_yard.jpg": "Grain mill, the yard",
    "wendlow_fisheye.jpg": "Glasshouse, fisheye",
    "wendlow_shore.dng": "Reservoir shore, raw",
    "wendlow_glasshouse.tif": "Glasshouse, 16 bits",
}
"""The demo photos in the order of the contact sheet."""


def run(
    database: Database,
    folder: Path,
    root: Path,
    door: Door,
    demo: bool,
    stop: threading.Event,
    painter: Painter | None = None,
    exports: Path | None = None,
    where: Shared | None = None,
) -> None:
    """Migrate the schema, load the demo photos on the first start, and serve until ``stop``. ``exports``: a
    folder that exports of many photos may be put into; ``where``: services shared with other machines.

    Raises StartError.
    """
    engine = connect(database.url)
    bring_schema_up(engine, database)
    store = Store(engine, folder, None if where is None else where.objects())
    broker = broker_of(store) if where is None else where.broker
    access = access_of(store, broker if door.network else None)
    photos = root / "demo" / "photos"
    refuse_lost_database(store, photos)
    for title in checking.missing_originals(store):
        print(
            f"Warning: the original of “{title}” is missing from {store.originals.folder}. Restore that "
            "file from a backup; its history is kept.",
            file=sys.stderr,
        )
    # They load while the rest is made ready.
    services = Services(store, database.url, painter, None if where is None else where.broker)
    try:
        if where is None:
            # Among several, what no row knows yet may be on its way.
            set_aside(store)
        checking.note_names(store)
        look_through(store)
        forget_first_looks(store)
        if demo:
            with acting_for(access.home):
                load_demo(store, photos)
        tidy(store)
        services.watch()
        ask_for_looks(store, services.background)
        if door.network:
            _serve_network(store, door, stop, services.environment)
        else:
            app = create_app(store, services.background, FRONT_END, painter, exports, access)
            _serve_alone(app, door, stop)
    finally:
        services.stop()
    engine.dispose()


def bring_schema_up(engine: Engine, database: Database) -> None:
    """Migrate the schema, all or nothing: a database that holds something is written out before. Of several
    that start over one database, one does it, and the others wait for it.

    Raises StartError.
    """
    with only_one(engine, SCHEMA, SCHEMA_SECONDS) as alone:
        if not alone:
            raise StartError(
                "another program has been bringing the database up to date for half an hour; wait until it "
                "is done, then start again. Nothing was changed"
            )
        _bring_schema_up(engine, database)


def _bring_schema_up(engine: Engine, database: Database) -> None:
    try:
        now, newest = schema_now(engine)
    except NewerDatabaseError as error:
        raise StartError(
            f"the data in {database.folder.parent} was made by a newer Sequor ({error}); start that one, or "
            "choose another folder with --data. Nothing was changed"
        ) from None
    if now == newest:
        return
    before = database.folder / f"before-{newest}.sql"
    if now is not None:
        dump(database.client, before)
    try:
        migrate(engine)
    except Exception as error:
        reason = str(error).splitlines()[0][:200]
        if now is not None:
            engine.dispose()
            load(database.client, before)
        raise StartError(
            f"the database could not be brought from schema {now} to {newest} ({reason}); it is as it was "
            "before. Start the earlier program to go on, and report this"
        ) from None
    before.unlink(missing_ok=True)


def refuse_lost_database(store: Store, demo: Path) -> None:
    """Raise StartError when there are originals and a database that knows of none.

    A first start that was broken off while it loaded the demo photos has lost nothing.
    """
    loading = [] if (store.folder / DEMO_DONE).exists() else [demo / name for name in DEMO_TITLES]
    originals = checking.lost_database(
        store, lambda: {content_hash(file) for file in loading if file.is_file()}
    )
    if originals:
        raise StartError(
            f"{store.folder} holds {originals} originals, but its database is empty. Nothing was touched. "
            "Bring the database back with bin/restore BACKUP, or import the originals again with "
            f"bin/check --adopt --data {store.folder}"
        )


def set_aside(store: Store) -> None:
    """Move files that no row knows out of the way, and say so."""
    moved = checking.set_aside_unknown(store)
    for what in ("original", "patch"):
        places = [path for kind, path in moved if kind == what]
        if places:
            hint = "; bin/check --adopt imports them" if what == "original" else ""
            print(
                f"Files that no photo knows were moved to {places[0].parent}: {len(places)}{hint}",
                file=sys.stderr,
                flush=True,
            )


def load_demo(store: Store, photos: Path) -> None:
    """The demo photos, on the first start only; one that was removed stays away."""
    marker = store.folder / DEMO_DONE
    if marker.exists():
        return
    refuse_without_room(store.folder, DEMO_BYTES, RESERVE)
    for name, title in DEMO_TITLES.items():
        folder = store.work / f"demo-{name}"
        folder.mkdir(parents=True, exist_ok=True)
        file = folder / "file"
        shutil.copyfile(photos / name, file)
        found = inspect(file, folder / "screen", lambda share, words: None)
        imported = register(store, file, folder / "screen", found, name)
        if not imported.known:
            with store.transaction() as session:
                session.get_one(Photo, imported.photo_id).title = title
        shutil.rmtree(folder)
    write_whole(marker, b"1\n")


def _serve_alone(app: APIFlask, door: Door, stop: threading.Event) -> None:
    with answering(app, listening(door.port, door.address), proxy=door.proxy) as (_, server):
        warm_up()
        _say_ready(door)
        stay(stop, server)
        _say_stopping()


def _serve_network(store: Store, door: Door, stop: threading.Event, environment: Mapping[str, str]) -> None:
    with listening(door.port, door.address) as at:
        servers = Servers(store, door, at, environment)
        try:
            servers.wait_until_ready()
            _say_ready(door)
            if door.proxy is None:
                print(
                    "Passwords and photographs are not encrypted on the way to it; put a reverse proxy "
                    "with TLS before it and name that with --proxy (docs/security.md)",
                    file=sys.stderr,
                    flush=True,
                )
            servers.watch(stop)
            _say_stopping()
        finally:
            servers.stop()


def _say_ready(door: Door) -> None:
    print(f"Sequor is ready. Open {door.url} in your browser. Press Ctrl-C to stop.", flush=True)


def _say_stopping() -> None:
    # Whoever listened may be gone; that must not keep the program from ending.
    with contextlib.suppress(OSError):
        os.write(1, b"Stopping.\n")
