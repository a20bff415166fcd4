"""Several machines over one database, one broker and one object store: each with a folder of its own."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from clients import Importer, Page, waited
from pictures import jpeg_bytes, smooth_picture
from sqlalchemy import Engine, select

import sequor
from sequor.jobs.background import Background
from sequor.jobs.claim import LEASE
from sequor.launch import backup, check, restore, serve, worker
from sequor.launch.mariadb import free_port
from sequor.operations.photos import get_photo
from sequor.store.database import Store
from sequor.store.files import content_hash
from sequor.store.models import Job, Photo
from sequor.store.objects import Objects
from sequor.web.app import create_app

SOURCES = str(Path(sequor.__file__).parents[1])
WITHIN = 400
"""Seconds, on a slow machine."""
Begin = Callable[..., "subprocess.Popen[bytes]"]


@pytest.fixture
def broker(tmp_path: Path) -> Iterator[str]:
    """A Redis that several machines reach."""
    program, port = shutil.which("redis-server"), free_port()
    assert program is not None
    command = [program, "--port", str(port), "--bind", "127.0.0.1", "--save", "", "--dir", str(tmp_path)]
    with (tmp_path / "redis.log").open("wb") as out:
        running = subprocess.Popen(command, stdout=out, stderr=out)
    yield f"redis://127.0.0.1:{port}/0"
    running.terminate()
    running.wait()


@pytest.fixture
def shared(engine: Engine, broker: str, bucket: str) -> list[str]:
    """The options that name what is shared."""
    database = engine.url.render_as_string(hide_password=False)
    return ["--database", database, "--broker", broker, "--files", bucket]


@pytest.fixture
def begin(shared: list[str], tmp_path: Path) -> Iterator[Begin]:
    """``bin/worker`` on a machine of this name."""
    running: list[subprocess.Popen[bytes]] = []

    def begin(name: str, *more: str) -> subprocess.Popen[bytes]:
        command = [sys.executable, "-m", "sequor.launch.worker", "--data", str(tmp_path / name)]
        command += [*shared, *more]
        with (tmp_path / f"{name}.out").open("wb") as out:
            running.append(
                subprocess.Popen(
                    command, stdout=out, stderr=out, env={**os.environ, LEASE: "8", "PYTHONPATH": SOURCES}
                )
            )
        return running[-1]

    yield begin
    for one in running:
        one.send_signal(signal.SIGTERM)
    for one in running:
        one.wait(60)


@pytest.fixture
def machine(store: Store, bucket: str, broker: str, tmp_path: Path) -> tuple[Store, Page]:
    """The machine with the web server, which does no work itself."""
    shared = Store(store.engine, tmp_path / "web", Objects(bucket))
    pages = tmp_path / "pages"
    (pages / "assets").mkdir(parents=True)
    (pages / "index.html").write_text("")
    return shared, Page(create_app(shared, Background(broker), pages).test_client())


def jobs(store: Store) -> list[Job]:
    with store.transaction() as session:
        return list(session.scalars(select(Job).where(Job.kind == "write")))


def exported(page: Page, store: Store, photos: int, side: int) -> int:
    """Begin to export so many photos; the number of the batch."""
    bring = Importer(store)
    numbers = [
        bring(jpeg_bytes(smooth_picture(side, side // 2 + at)), f"{at}.jpg").photo_id for at in range(photos)
    ]
    answer = page("POST", "/api/batches/export", json={"photos": numbers, "export": {"format": "png"}})
    assert answer.status_code == 202, answer.get_json()
    return int(answer.get_json()["id"])


def test_a_photo_goes_in_and_out_through_another_machine(machine: tuple[Store, Page], begin: Begin) -> None:
    """What the web server is sent a worker elsewhere reads, and what that writes the web server sends."""
    store, page = machine
    begin("one")
    sent = jpeg_bytes(smooth_picture(900, 600))
    job: dict[str, Any] = page("POST", "/api/imports?name=weir.jpg", data=sent).get_json()
    waited(lambda: page("GET", f"/api/jobs/{job['id']}").get_json()["state"] == "done", WITHIN)
    photo = page("GET", f"/api/jobs/{job['id']}").get_json()["photo_id"]
    assert store.originals.path(store.originals.all()[0]).read_bytes() == sent
    export = page("POST", f"/api/photos/{photo}/exports", json={"export": {}}).get_json()
    waited(lambda: page("GET", f"/api/jobs/{export['id']}").get_json()["state"] == "done", WITHIN)
    answer = page("GET", f"/api/jobs/{export['id']}/file")
    assert answer.status_code == 200 and answer.data[:2] == b"\xff\xd8"


def test_a_worker_is_killed_while_jobs_run_and_all_are_done_once(
    machine: tuple[Store, Page], begin: Begin
) -> None:
    store, page = machine
    batch = exported(page, store, 8, 2600)
    first = begin("one", "--lanes", "bulk", "--at-once", "2")
    waited(lambda: sum(job.state == "running" for job in jobs(store)) >= 2, WITHIN)
    running = [job.id for job in jobs(store) if job.state == "running"]
    first.kill()
    first.wait()
    assert len(running) >= 2
    begin("two", "--lanes", "bulk", "--at-once", "2")
    waited(lambda: all(job.state == "done" for job in jobs(store)), WITHIN)
    assert len(jobs(store)) == 8 and all(job.attempts <= 2 for job in jobs(store))
    assert any(job.attempts == 2 for job in jobs(store) if job.id in running)
    answer = page("GET", f"/api/batches/{batch}/files.zip")
    assert answer.status_code == 200 and answer.data.count(b"\x89PNG\r\n") == 8


@pytest.mark.parametrize(
    ("more", "why"),
    [
        (["--broker", "redis://127.0.0.1:9/0"], "the broker does not answer"),
        (["--files", "s3://photos?endpoint=http://127.0.0.1:9"], "see --files"),
        (["--files", "here"], "is no address of a file store"),
        (["--database", "mysql://127.0.0.1:9/sequor"], "the database does not answer"),
        (["--database", "mysql://127.0.0.1:9/other"], "must be a MariaDB with the name sequor"),
        (["--lanes", "fast"], "--lanes takes asked, bulk, fill"),
        (["--at-once", "0"], "--at-once takes a number"),
        (["--painter", "here"], "or stand-in"),
        (["--files", ""], "belong together"),
    ],
)
def test_what_is_not_there_is_said_in_a_line(
    more: list[str],
    why: str,
    shared: list[str],
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr("sequor.store.objects.TRIES", 0)
    # What is named last counts.
    assert worker.main([*shared, *more, "--data", str(tmp_path / "w")]) == 1
    (line,) = capsys.readouterr().err.splitlines()
    assert line.startswith("The worker cannot start: ") and why in line


def test_a_folder_for_exports_is_refused_where_machines_share(
    shared: list[str], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    options = [*shared, "--data", str(tmp_path / "web"), "--port", str(free_port())]
    assert serve.main([*options, "--exports", str(tmp_path / "out")]) == 1
    assert "workers on others do not have" in capsys.readouterr().err


def test_what_machines_share_is_checked_backed_up_and_comes_back(
    machine: tuple[Store, Page], shared: list[str], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    store, _ = machine
    assert store.objects is not None
    weir, mill = (
        Importer(store, number)(jpeg_bytes(smooth_picture(300, 200 + number)), name).photo_id
        for number, name in ((1, "weir.jpg"), (2, "mill.jpg"))
    )
    sent = [get_photo(store, photo).photo.sha256 for photo in (weir, mill)]
    options, target = [*shared, "--data", str(tmp_path / "other")], str(tmp_path / "backup")
    assert backup.main([target, *options]) == 0
    store.objects.remove([store.originals.key(sent[0])])
    store.objects.write(b"something else", store.originals.key(sent[1]))
    with store.transaction() as session:
        session.get_one(Photo, weir).title = "Changed"
    capsys.readouterr()
    assert check.main(options) == 1
    told = capsys.readouterr().out
    assert f"Missing: the original of “Changed”, {sent[0]}" in told
    assert f"Damaged: the original of “Mill”, {sent[1]}" in told
    assert restore.main([target, *options]) == 0
    assert check.main(options) == 0
    assert get_photo(store, weir).photo.title == "Weir"
    fresh = Store(store.engine, tmp_path / "fresh", store.objects)
    assert [content_hash(fresh.originals.path(one)) for one in sent] == sent
    assert fresh.originals.name(sent[0]) == "weir.jpg"
    assert list((tmp_path / "other" / "quarantine").rglob("database-*.sql"))
