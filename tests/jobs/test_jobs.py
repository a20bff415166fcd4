"""Imports and exports: what becomes of them is in their rows, whatever happens to a process."""

from __future__ import annotations

import os
import signal
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import odd_worker
import pytest
from clients import Importer, Straight, waited
from pictures import jpeg_bytes, smooth_picture
from sqlalchemy import Engine
from sqlalchemy.exc import OperationalError

from sequor.jobs import doing, limits, tasks
from sequor.jobs.background import WORKERS, BackgroundGoneError, queue
from sequor.jobs.jobs import Jobs, tidy
from sequor.jobs.tasks import export_spec
from sequor.launch import background
from sequor.launch.background import Services
from sequor.operations import importing, photos
from sequor.operations.telling import MOST_ATTEMPTS
from sequor.store.database import Store
from sequor.store.models import Job

JPEG = jpeg_bytes(smooth_picture(300, 200))
ENDED = ("done", "failed", "cancelled")


class Running:
    """Jobs over a store."""

    def __init__(self, store: Store, jobs: Jobs) -> None:
        self.store, self.jobs = store, jobs

    def begin(self, kind: str, **spec: Any) -> str:
        return self.jobs.start(self.jobs.prepare(), kind, kind, spec).id

    def bring(self, content: bytes = JPEG) -> str:
        name = self.jobs.prepare()
        (self.jobs.folder(name) / "file").write_bytes(content)
        spec = {"name": "photo.jpg", "bytes": len(content)}
        return self.jobs.start(name, "import", "photo.jpg", spec).id

    def row(self, name: str) -> Job:
        with self.store.transaction() as session:
            return session.get_one(Job, name)

    def ended(self, name: str) -> Job:
        waited(lambda: self.row(name).state in ENDED)
        return self.row(name)

    def processes(self, name: str) -> list[int]:
        """Those that have begun a job that sleeps."""
        file = self.jobs.folder(name) / "pid"
        return [int(line) for line in file.read_text().split()] if file.is_file() else []


@pytest.fixture
def straight(store: Store) -> Running:
    """Jobs that are done in threads of this process."""
    return Running(store, Jobs(store, Straight(store)))


Start = Callable[[], Services]


@pytest.fixture
def start(engine: Engine, store: Store, monkeypatch: pytest.MonkeyPatch) -> Iterator[Start]:
    """Starts Redis and workers that know odd kinds."""
    monkeypatch.setattr(background, "APPLICATION", odd_worker.__name__)
    started: list[Services] = []

    def begin() -> Services:
        started.append(Services(store, engine.url.render_as_string(hide_password=False)))
        started[-1].watch()
        return started[-1]

    yield begin
    for services in started:
        services.stop()


@pytest.fixture
def services(start: Start) -> Services:
    """Those that are there from the beginning."""
    return start()


@pytest.fixture
def worked(store: Store, services: Services) -> Running:
    """Jobs that are done by the workers."""
    return Running(store, Jobs(store, services.background))


def test_what_came_of_a_job_is_in_its_row(straight: Running, store: Store) -> None:
    job = straight.ended(straight.bring())
    assert job.state == "done" and job.result is not None and job.progress == 1
    assert photos.get_photo(store, job.result["photo_id"]).photo.title == "Photo"
    waited(lambda: not straight.jobs.folder(job.id).exists(), 5)


def test_a_new_photo_is_looked_at_in_the_background(worked: Running, store: Store) -> None:
    """The same file once more is known, and is not looked at again."""
    worked.ended(worked.bring())
    waited(lambda: store.looks.is_dir() and list(store.looks.glob("*.json")), 60)
    (kept,) = store.looks.glob("*.json")
    written = kept.stat().st_mtime_ns
    worked.ended(worked.bring())
    assert [one.stat().st_mtime_ns for one in store.looks.glob("*.json")] == [written]


class Nobody:
    """A queue that is away."""

    def make_takes(self, photo_id: int, key: str) -> None:
        raise BackgroundGoneError

    def do_job(self, name: str, kind: str, lane: str) -> None:
        raise BackgroundGoneError

    def break_off(self, name: str) -> None:
        """There is nobody to break off."""

    def waiting(self, worker: str | None = None) -> int:
        raise BackgroundGoneError

    def at_work(self) -> dict[str, int]:
        raise BackgroundGoneError


def test_without_redis_a_job_waits_and_is_done_later(store: Store, start: Start) -> None:
    """Redis was away when it was asked for: the row is what the next start goes by."""
    running = Running(store, Jobs(store, Nobody()))
    name = running.bring()
    tidy(store)
    start()
    job = running.ended(name)
    assert (job.state, job.attempts) == ("done", 1)


def test_a_job_that_is_asked_for_twice_is_done_once(straight: Running) -> None:
    name = straight.bring()
    for _ in range(3):
        doing.do(straight.store, name)
    assert straight.ended(name).attempts == 1


def test_a_stop_breaks_nothing_off_for_good(
    worked: Running, services: Services, store: Store, start: Start, bring: Importer
) -> None:
    """What waits or runs when the program ends is taken up by the next start; no attempt is counted for it."""
    photo = photos.get_photo(store, bring(JPEG).photo_id)
    slow = [worked.begin("sleep", seconds=20) for _ in range(WORKERS["asked"].at_once)]
    waited(lambda: all(worked.processes(name) for name in slow))
    spec = export_spec(photo.photo.sha256, photo.recipe)
    waiting = worked.jobs.start(worked.jobs.prepare(), "export", "photo-level.jpg", spec).id
    begun = time.monotonic()
    services.stop()
    assert time.monotonic() - begun < 8
    assert [worked.row(name).state for name in (slow[0], waiting)] == ["waiting", "waiting"]
    assert worked.row(slow[0]).attempts == 0
    with store.transaction() as session:
        for name in slow:
            session.get_one(Job, name).spec = {"seconds": 0}
    stray = store.work / "stray"
    stray.mkdir()
    tidy(store)
    start()
    ended = [worked.ended(name) for name in (*slow, waiting)]
    assert [(job.state, job.code, job.error) for job in ended] == [("done", None, None)] * len(ended)
    assert (worked.jobs.folder(waiting) / "export").is_file() and not stray.exists()


def test_what_was_killed_too_often_or_never_arrived_is_said(straight: Running, store: Store) -> None:
    rows = [
        Job(
            id="often",
            kind="export",
            lane="export",
            label="x",
            spec={},
            state="running",
            attempts=MOST_ATTEMPTS,
        ),
        Job(
            id="half",
            kind="import",
            lane="import",
            label="x",
            spec={"name": "x", "bytes": 9},
            state="running",
            attempts=1,
        ),
    ]
    straight.jobs.folder("half").mkdir()
    (straight.jobs.folder("half") / "file").write_bytes(b"half")
    with store.transaction() as session:
        session.add_all(rows)
    tidy(store)
    often, half = straight.row("often"), straight.row("half")
    assert {(job.state, job.code) for job in (often, half)} == {("failed", "broken-off")}
    assert "3 times" in (often.error or "") and "import the file again" in (half.error or "")


@pytest.mark.parametrize("whom", ["process", "worker"])
def test_a_killed_process_is_made_anew(worked: Running, services: Services, whom: str) -> None:
    name = worked.begin("sleep", seconds=1.5)
    waited(lambda: worked.processes(name))
    (process,) = worked.processes(name)
    victim = process if whom == "process" else services.workers["asked"].pid
    os.kill(victim, signal.SIGKILL)
    job = worked.ended(name)
    assert (job.state, job.attempts) == ("done", 2)
    waited(lambda: not Path(f"/proc/{process}").exists(), 5)


def test_what_kills_its_process_each_time_is_given_up(worked: Running) -> None:
    name = worked.begin("sleep", seconds=20)
    seen: set[int] = set()
    while worked.row(name).state not in ENDED:
        for process in set(worked.processes(name)) - seen:
            seen.add(process)
            os.kill(process, signal.SIGKILL)
        time.sleep(0.05)
    assert worked.row(name).code == "broken-off" and len(seen) == MOST_ATTEMPTS


def test_what_goes_beyond_its_bounds_is_ended(worked: Running) -> None:
    slow, greedy = worked.begin("slow", seconds=30), worked.begin("greedy")
    late = worked.ended(slow)
    assert (late.state, late.code) == ("failed", "time") and "took longer than 1 s" in (late.error or "")
    much = worked.ended(greedy)
    assert (much.state, much.code) == ("failed", "memory") and "not enough memory" in (much.error or "")


def test_each_kind_has_bounds_of_its_own(worked: Running) -> None:
    """Of many photos at once, each may have less; the next one has what is its due."""
    late, hungry, fed = worked.begin("slow of many", seconds=30), worked.begin("hungry"), worked.begin("fed")
    assert worked.ended(late).code == "time"
    assert worked.ended(hungry).code == "memory"
    assert worked.ended(fed).state == "done"


def test_each_way_to_fail_has_its_own_code_and_sentence(straight: Running, bring: Importer) -> None:
    photo = photos.get_photo(straight.store, bring(JPEG).photo_id)
    gone = export_spec("0" * 64, photo.recipe)
    wanted = {
        "unexpected": (straight.begin("clumsy"), "asked.log"),
        "unreadable": (straight.bring(JPEG[:-900]), "damaged"),
        "patch-missing": (straight.begin("patchless"), "ask for the takes again"),
        "original-missing": (straight.begin("export", **gone), "original"),
    }
    for code, (name, words) in wanted.items():
        job = straight.ended(name)
        assert (job.state, job.code) == ("failed", code)
        assert words in (job.error or "")


def test_a_job_that_is_cancelled_ends_at_once(worked: Running) -> None:
    """One that runs takes its process with it; one that waits is never begun, and others are not held up."""
    at_once = WORKERS["asked"].at_once
    slow = [worked.begin("sleep", seconds=40) for _ in range(at_once)]
    waited(lambda: all(worked.processes(name) for name in slow))
    processes = [worked.processes(name)[0] for name in slow]
    waiting = worked.begin("sleep", seconds=0)
    for name in (waiting, *slow):
        worked.jobs.cancel(name)
        assert worked.row(name).state == "cancelled" and not worked.jobs.folder(name).exists()
    waited(lambda: not any(Path(f"/proc/{process}").exists() for process in processes), 10)
    assert worked.ended(worked.bring()).state == "done"
    assert worked.row(waiting).attempts == 0


def test_a_job_whose_end_nobody_tells_its_process_ends_all_the_same(
    worked: Running, services: Services, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The message that it is to be killed may be lost: the process looks for itself whether it is wanted."""
    monkeypatch.setattr(services.background, "break_off", lambda name: None)
    slow = worked.begin("sleep", seconds=600)
    waited(lambda: worked.processes(slow))
    (process,) = worked.processes(slow)
    worked.jobs.cancel(slow)
    waited(lambda: not Path(f"/proc/{process}").exists(), 60)
    assert worked.ended(worked.bring()).state == "done"


def test_many_of_one_kind_hold_up_no_other(worked: Running) -> None:
    """An import that is asked for after twenty exports does not wait for all of them."""
    slow = [worked.begin("sleep", seconds=1) for _ in range(20)]
    assert worked.ended(worked.bring()).state == "done"
    assert [worked.row(name).state for name in slow].count("waiting") >= 5


def test_an_import_waits_for_a_database_that_is_started_again(
    straight: Running, monkeypatch: pytest.MonkeyPatch
) -> None:
    calls = []

    def away_at_first(*arguments: Any) -> importing.Imported:
        calls.append(1)
        if len(calls) < 3:
            raise OperationalError("INSERT", {}, Exception("gone away"))
        return importing.register(*arguments)

    monkeypatch.setattr(tasks, "register", away_at_first)
    assert straight.ended(straight.bring()).state == "done" and len(calls) == 3


def test_a_process_ends_with_the_one_that_made_it(tmp_path: Path) -> None:
    """However that ends: nothing goes on decoding for nobody."""
    fork = os.fork()
    if fork == 0:
        child = os.fork()
        if child == 0:
            limits.end_with_parent()
            (tmp_path / "ready").write_text(str(os.getpid()))
            time.sleep(60)
        time.sleep(60)
        os._exit(0)
    waited(lambda: (tmp_path / "ready").is_file() and (tmp_path / "ready").read_text())
    grandchild = int((tmp_path / "ready").read_text())
    os.kill(fork, signal.SIGKILL)
    os.waitpid(fork, 0)
    waited(lambda: not Path(f"/proc/{grandchild}").exists() or _zombie(grandchild), 5)


def _zombie(pid: int) -> bool:
    return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] == "Z"


def test_the_worker_waits_for_a_process_that_is_still_loading() -> None:
    assert queue("memory://").conf.worker_proc_alive_timeout >= 60
