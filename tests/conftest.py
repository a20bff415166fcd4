"""What many tests need: a private MariaDB of their own, never the user's."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Iterator
from pathlib import Path

import boto3
import numpy as np
import pytest
from apiflask import APIFlask
from ceph import gateway
from clients import Importer, Page, Straight
from hypothesis import settings
from moto.server import ThreadedMotoServer
from sqlalchemy import Engine, text

from sequor.core.warp import homography
from sequor.launch.background import Services
from sequor.launch.mariadb import MariaDB
from sequor.launch.painter import STAND_IN, painter_at
from sequor.painter.client import Painter
from sequor.pipeline.results import RESULTS
from sequor.store.database import Store, connect, migrate
from sequor.store.objects import KEY, SECRET
from sequor.web.app import create_app

CREDENTIALS = ("somebody", "of-the-tests")

TABLES = [
    "batch_photos",
    "group_photos",
    "photo_groups",
    "batches",
    "jobs",
    "takes",
    "versions",
    "own_ratios",
    "revisions",
    "photos",
    "accounts",
]

settings.register_profile("sequor", deadline=None, max_examples=60)
settings.load_profile("sequor")


@pytest.fixture(scope="session")
def engine(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Engine]:
    """A migrated database on a free port with its own data directory."""
    database = MariaDB(tmp_path_factory.mktemp("database"))
    engine = connect(database.url)
    migrate(engine)
    yield engine
    engine.dispose()
    database.stop()


@pytest.fixture
def store(engine: Engine, tmp_path: Path) -> Store:
    """An empty store."""
    with engine.begin() as connection:
        connection.execute(text("UPDATE photos SET revision_id = NULL"))
        connection.execute(text("UPDATE revisions SET parent_id = NULL, redo_id = NULL"))
        for table in TABLES:
            connection.execute(text(f"DELETE FROM {table}"))
    return Store(engine, tmp_path / "data")


def pytest_addoption(parser: pytest.Parser) -> None:
    """The nightly run asks for a real object store."""
    parser.addoption("--real-objects", action="store_true", help="Ceph's gateway in place of the stand-in")


@pytest.fixture(scope="session")
def object_server(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """An object store with S3's interface, mostly a stand-in for one; its address."""
    if request.config.getoption("--real-objects"):
        with gateway(tmp_path_factory.mktemp("ceph"), *CREDENTIALS) as address:
            yield address
        return
    server = ThreadedMotoServer(ip_address="127.0.0.1", port=0, verbose=False)
    server.start()
    yield "http://{}:{}".format(*server.get_host_and_port())
    server.stop()


@pytest.fixture
def bucket(object_server: str, monkeypatch: pytest.MonkeyPatch) -> str:
    """The address of an empty bucket."""
    for variable, value in zip((KEY, SECRET), CREDENTIALS, strict=True):
        monkeypatch.setenv(variable, value)
    name = f"photos-{secrets.token_hex(4)}"
    boto3.client("s3", endpoint_url=object_server, region_name="us-east-1").create_bucket(Bucket=name)
    return f"s3://{name}?endpoint={object_server}"


@pytest.fixture
def bring(store: Store) -> Importer:
    """Import bytes."""
    return Importer(store)


@pytest.fixture
def services(engine: Engine, store: Store, monkeypatch: pytest.MonkeyPatch) -> Iterator[Services]:
    """Redis and the workers over an empty store."""
    running = Services(store, engine.url.render_as_string(hide_password=False))
    running.watch()
    yield running
    running.stop()


@pytest.fixture(scope="session")
def stand_in(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Painter]:
    """The stand-in for an outside painter, in a process of its own."""
    with painter_at(STAND_IN, tmp_path_factory.mktemp("painter")) as painter:
        assert painter is not None
        yield painter


@pytest.fixture
def app(store: Store, tmp_path: Path) -> APIFlask:
    """The web application over an empty store."""
    pages = tmp_path / "pages"
    (pages / "assets").mkdir(parents=True)
    (pages / "index.html").write_text('<meta name="style-nonce" content="NONCE-OF-THIS-ANSWER">')
    return create_app(store, Straight(store), pages)


@pytest.fixture
def own_page(app: APIFlask) -> Page:
    """A page of ours."""
    return Page(app.test_client())


@pytest.fixture
def stretched_core(monkeypatch: pytest.MonkeyPatch) -> Iterator[Callable[[], None]]:
    """Change a rule of the core, all at once; what was worked out under the other rule is forgotten."""

    def stretch() -> None:
        monkeypatch.setattr(homography, "levelling", lambda *attitudes: np.diag([1.5, 1.0, 1.0]))
        RESULTS.clear()

    yield stretch
    RESULTS.clear()
