"""Two ways into the program for tests: importing without a child process, and a page of ours without a browser."""

from __future__ import annotations

import time
from typing import Any

from flask.testing import FlaskClient

from sequor.operations import takes
from sequor.operations.importing import Imported, inspect, register
from sequor.painter.client import Painter
from sequor.store.database import Store


class Importer:
    """Imports bytes into a store without a child process."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.count = 0

    def __call__(self, content: bytes, name: str = "photo.jpg") -> Imported:
        self.count += 1
        folder = self.store.work / f"test-{self.count}"
        folder.mkdir()
        file = folder / "file"
        file.write_bytes(content)
        found = inspect(file, folder / "screen", lambda share, words: None)
        return register(self.store, file, folder / "screen", found, name)


class Straight:
    """Makes takes at once, without queue and worker."""

    def __init__(self, store: Store, painter: Painter | None = None) -> None:
        self.store, self.painter = store, painter

    def make_takes(self, photo_id: int, key: str) -> None:
        takes.make(self.store, photo_id, key, self.painter)


class Page:
    """A client that behaves like a page the server itself served."""

    def __init__(self, client: FlaskClient) -> None:
        self.client = client
        token = client.get("/api/session", headers={"Host": "127.0.0.1:8765"}).get_json()["token"]
        self.headers = {"Host": "127.0.0.1:8765", "Origin": "http://127.0.0.1:8765", "X-Sequor-Token": token}

    def __call__(self, method: str, path: str, version: int | None = None, **options: object) -> Any:
        headers = {**self.headers, **({"If-Match": f'"{version}"'} if version is not None else {})}
        return self.client.open(path, method=method, headers=headers, **options)  # type: ignore[arg-type]


def finished(own_page: Page, job: dict[str, Any]) -> dict[str, Any]:
    """Wait for a job."""
    for _ in range(600):
        job = own_page("GET", f"/api/jobs/{job['id']}").get_json()
        if job["state"] not in ("waiting", "running"):
            return job
        time.sleep(0.05)
    raise AssertionError(f"the job did not end: {job}")
