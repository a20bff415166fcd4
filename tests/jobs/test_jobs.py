"""Imports and exports: what becomes of them is in their rows, whatever happens to a process."""

from __future__ import annotations

import os
import signal
import threading
import time
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import Any

import pytest
from clients import Importer
from pictures import jpeg_bytes, smooth_picture
from sqlalchemy.exc import OperationalError

from sequor.jobs import children, jobs, lanes, tasks
from sequor.jobs.background import queue
from sequor.jobs.jobs import Begun, Jobs
from sequor.jobs.tasks import Kind, Work, export_spec
from sequor.operations import importing, photos
from sequor.operations.reporting import Report
from sequor.store.database import Store
from sequor.store.models import Job

JPEG = jpeg_bytes(smooth_picture(300, 200))


def sleeping(report: Report, work: Work) -> dict[str, Any]:
    """Work that takes as long as it is told; it says who does it."""
    (work.folder / "pid").write_text(str(os.getpid()))
    report(0.5, "sleeping")
    time.sleep(work.spec["seconds"])
    return {"notices": []}


def greedy(report: Report, work: Work) -> dict[str, Any]:
    """Work that wants more memory than a child may have."""
    return {"notices": [], "much": len(bytearray(20 << 30))}


def clumsy(report: Report, work: Work) -> dict[str, Any]:
    """Work with a fault."""
    raise ZeroDivisionError


def patchless(report: Report, work: Work) -> dict[str, Any]:
    """Work that needs a patch which is not there."""
    assert work.means.find is not None
    return {"notices": [], "patch": work.means.find("1" * 64)}


@pytest.fixture
def running(store: Store, monkeypatch: pytest.MonkeyPatch) -> Iterator[Jobs]:
    """Jobs over an empty store, with kinds for tests."""
    for name, run in (("sleep", sleeping), ("greedy", greedy), ("clumsy", clumsy), ("patchless", patchless)):
        monkeypatch.setitem(tasks.KINDS, name, Kind("export", 30, run))
    found = Jobs(store)
    yield found
    found.close()


def waited(true: Callable[[], Any], seconds: float = 60) -> None:
    deadline = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < deadline
        time.sleep(0.02)


def begun(running: Jobs, kind: str, **spec: Any) -> Begun:
    return running.start(running.prepare(), kind, kind, spec)


def row(store: Store, job: Begun) -> Job:
    with store.transaction() as session:
        return session.get_one(Job, job.row.id)


def child_of(job: Begun) -> int:
    file = job.folder / "pid"
    waited(lambda: file.is_file() and file.read_text())
    return int(file.read_text())


def brought(running: Jobs, content: bytes = JPEG) -> Begun:
    name = running.prepare()
    (running.folder(name) / "file").write_bytes(content)
    return running.start(name, "import", "photo.jpg", {"name": "photo.jpg", "bytes": len(content)})


def test_what_came_of_a_job_is_in_its_row(running: Jobs, store: Store) -> None:
    job = brought(running)
    assert job.ended.wait(60)
    kept = row(store, job)
    assert kept.state == "done" and kept.result is not None
    assert photos.get_photo(store, kept.result["photo_id"]).photo.title == "Photo"
    assert not job.folder.exists()
    # A program that was started anew still knows it.
    later = Jobs(store).get(job.row.id)
    assert later is not None and later.row.state == "done"


def test_a_stop_breaks_nothing_off_for_good(running: Jobs, store: Store, bring: Importer) -> None:
    """What waits or runs when the program ends is taken up by the next start."""
    photo = photos.get_photo(store, bring(JPEG).photo_id)
    spec = export_spec(photo.photo.sha256, photo.recipe)
    slow = [begun(running, "sleep", seconds=20) for _ in range(lanes.AT_ONCE)]
    for job in slow:
        child_of(job)
    waiting = running.start(running.prepare(), "export", "photo-level.jpg", spec)
    running.close()
    assert row(store, slow[0]).state == "waiting" and row(store, waiting).state == "waiting"
    for job in slow:
        with store.transaction() as session:
            session.get_one(Job, job.row.id).spec = {"seconds": 0}
    stray = store.work / "stray"
    stray.mkdir()
    second = Jobs(store)
    second.take_up()
    waited(lambda: row(store, waiting).state == "done" and row(store, slow[0]).state == "done")
    assert (store.work / waiting.row.id / "export").is_file() and not stray.exists()
    second.close()


def test_what_was_killed_too_often_or_never_arrived_is_said(running: Jobs, store: Store) -> None:
    rows = [
        Job(id="often", kind="sleep", label="x", spec={}, state="running", attempts=3, notices=[]),
        Job(id="half", kind="import", label="x", spec={"name": "x", "bytes": 9}, state="running", notices=[]),
    ]
    (running.folder("half")).mkdir()
    (running.folder("half") / "file").write_bytes(b"half")
    with store.transaction() as session:
        session.add_all(rows)
    Jobs(store).take_up()
    said = {}
    with store.transaction() as session:
        said = {name: session.get_one(Job, name) for name in ("often", "half")}
    assert all(one.state == "failed" and one.code == "broken-off" for one in said.values())
    assert "3 times" in (said["often"].error or "") and "import it again" in (said["half"].error or "")


@pytest.mark.parametrize("whom", ["child", "fork server"])
def test_a_killed_child_is_made_anew(running: Jobs, store: Store, whom: str) -> None:
    job = begun(running, "sleep", seconds=1.5)
    child = child_of(job)
    victim = child if whom == "child" else int(Path(f"/proc/{child}/stat").read_text().split()[3])
    assert victim != os.getpid()
    os.kill(victim, signal.SIGKILL)
    assert job.ended.wait(60)
    assert (row(store, job).state, row(store, job).attempts) == ("done", 2)
    waited(lambda: not Path(f"/proc/{child}").exists(), 5)


def test_a_child_that_is_killed_each_time_is_given_up(running: Jobs, store: Store) -> None:
    job = begun(running, "sleep", seconds=20)
    seen: set[int] = set()
    file = job.folder / "pid"
    while not job.ended.is_set():
        # The folder goes with the job, in the middle of a look too.
        told = file.read_text() if file.is_file() else ""
        if told and int(told) not in seen:
            child = int(told)
            seen.add(child)
            os.kill(child, signal.SIGKILL)
        job.ended.wait(0.05)
    assert row(store, job).code == "broken-off" and len(seen) == jobs.MOST_ATTEMPTS


def test_each_way_to_fail_has_its_own_code_and_sentence(
    running: Jobs, store: Store, bring: Importer, monkeypatch: pytest.MonkeyPatch
) -> None:
    photo = photos.get_photo(store, bring(JPEG).photo_id)
    gone = export_spec("0" * 64, photo.recipe)
    monkeypatch.setitem(tasks.KINDS, "slow", Kind("export", 0.5, sleeping))
    wanted = {
        "memory": (begun(running, "greedy"), "not enough memory"),
        "time": (begun(running, "slow", seconds=20), "took longer than"),
        "unexpected": (begun(running, "clumsy"), "sequor.log"),
        "unreadable": (brought(running, JPEG[:-900]), "damaged"),
        "patch-missing": (begun(running, "patchless"), "ask for the takes again"),
        "original-missing": (begun(running, "export", **gone), "original"),
    }
    for code, (job, words) in wanted.items():
        assert job.ended.wait(60)
        kept = row(store, job)
        assert (kept.state, kept.code) == ("failed", code)
        assert words in (kept.error or "")


def test_a_job_that_waits_is_cancelled_at_once(running: Jobs, store: Store) -> None:
    slow = [begun(running, "sleep", seconds=20) for _ in range(lanes.AT_ONCE)]
    for job in slow:
        child_of(job)
    waiting = begun(running, "sleep", seconds=0)
    before = time.monotonic()
    running.cancel(waiting)
    assert time.monotonic() - before < 1 and row(store, waiting).state == "cancelled"
    # Another lane does not wait for this one.
    assert brought(running).ended.wait(60)
    for job in slow:
        running.cancel(job)
        assert row(store, job).state == "cancelled" and not job.folder.exists()


def test_a_slow_job_holds_up_nobody_for_long(
    running: Jobs, store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(lanes, "SLOW_SECONDS", 0.5)
    slow = [begun(running, "sleep", seconds=25) for _ in range(lanes.AT_ONCE)]
    assert begun(running, "sleep", seconds=0).ended.wait(20)
    assert all(job.row.state == "running" for job in slow)


def test_an_import_waits_for_a_database_that_is_started_again(
    running: Jobs, store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    calls = []

    def away_at_first(*arguments: Any) -> importing.Imported:
        calls.append(1)
        if len(calls) < 3:
            raise OperationalError("INSERT", {}, Exception("gone away"))
        return importing.register(*arguments)

    monkeypatch.setattr(jobs, "register", away_at_first)
    job = brought(running)
    assert job.ended.wait(60)
    assert job.row.state == "done" and len(calls) == 3


def test_a_child_ends_with_the_process_that_made_it(tmp_path: Path) -> None:
    """However that ends: nothing goes on decoding for nobody."""
    fork = os.fork()
    if fork == 0:
        child = os.fork()
        if child == 0:
            children.end_with_parent()
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


def test_the_worker_waits_for_a_child_that_is_still_loading() -> None:
    assert queue("memory://").conf.worker_proc_alive_timeout >= 60


def test_lanes_keep_the_order(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(lanes, "AT_ONCE", 1)
    done: list[int] = []
    end = threading.Event()
    lane = lanes.Lane()
    for number in range(20):
        lane.add(str(number), partial(done.append, number))
    lane.add("end", end.set)
    assert end.wait(10) and done == list(range(20))
