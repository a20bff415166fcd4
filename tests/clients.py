"""Two ways into the program for tests: importing without a worker, and a page of ours without a browser."""

from __future__ import annotations

import shutil
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any, TypeVar

from flask.testing import FlaskClient

from sequor.jobs import doing
from sequor.operations import takes
from sequor.operations.importing import Imported, inspect, register
from sequor.painter.client import Painter
from sequor.store.database import Store


class Importer:
    """Imports bytes into a store without a worker."""

    def __init__(self, store: Store, number: int = 0) -> None:
        self.store = store
        self.number, self.count = number, 0

    def __call__(self, content: bytes, name: str = "photo.jpg") -> Imported:
        self.count += 1
        folder = self.store.work / f"test-{self.number}-{self.count}"
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir()
        file = folder / "file"
        file.write_bytes(content)
        found = inspect(file, folder / "screen", lambda share, words: None)
        return register(self.store, file, folder / "screen", found, name)


class Straight:
    """Makes takes at once and does jobs beside what else goes on, without Redis and workers."""

    def __init__(self, store: Store, painter: Painter | None = None) -> None:
        self.store, self.painter = store, painter

    def make_takes(self, photo_id: int, key: str) -> None:
        takes.make(self.store, photo_id, key, self.painter)

    def do_job(self, name: str, kind: str, lane: str) -> None:
        threading.Thread(target=doing.do, args=(self.store, name, self.painter), daemon=True).start()

    def break_off(self, name: str) -> None:
        """The thread hears it when it next tells how far it is."""

    def waiting(self, worker: str | None = None) -> int:
        return 0

    def at_work(self) -> dict[str, int]:
        return {}


class Page:
    """A client that behaves like a page the server itself served."""

    def __init__(self, client: FlaskClient) -> None:
        self.client = client
        token = client.get("/api/session", headers={"Host": "127.0.0.1:8765"}).get_json()["token"]
        self.headers = {"Host": "127.0.0.1:8765", "Origin": "http://127.0.0.1:8765", "X-Sequor-Token": token}

    def __call__(self, method: str, path: str, version: int | None = None, **options: object) -> Any:
        headers = {**self.headers, **({"If-Match": f'"{version}"'} if version is not None else {})}
        return self.client.open(path, method=method, headers=headers, **options)  # type: ignore[arg-type]


T = TypeVar("T")


def at_once(many: int, work: Callable[[int], T]) -> list[T]:
    """What some threads get that begin in the same moment."""
    gate = threading.Barrier(many)

    def begin(number: int) -> T:
        gate.wait()
        return work(number)

    with ThreadPoolExecutor(many) as pool:
        return list(pool.map(begin, range(many)))


def waited(what: Callable[[], object], seconds: float = 60) -> None:
    """Until something is so."""
    deadline = time.monotonic() + seconds
    while not what():
        assert time.monotonic() < deadline, "it did not happen in time"
        time.sleep(0.02)


def finished(own_page: Page, job: dict[str, Any]) -> dict[str, Any]:
    """Wait for a job."""
    for _ in range(600):
        job = own_page("GET", f"/api/jobs/{job['id']}").get_json()
        if job["state"] not in ("waiting", "running"):
            return job
        time.sleep(0.05)
    raise AssertionError(f"the job did not end: {job}")
