"""Who does a job: a claim that is renewed, and what rings for those that nobody has."""

from __future__ import annotations

import contextlib
import itertools
import os
import signal
import socket
import subprocess
import threading
import time
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path

import pytest
from clients import Importer, at_once, waited
from pictures import jpeg_bytes, smooth_picture
from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from sequor.jobs import claim as claims
from sequor.jobs import doing, sweeping, tasks
from sequor.jobs.asking import Asked, Bell, ask
from sequor.jobs.batches import Batches
from sequor.jobs.claim import claim
from sequor.jobs.folders import folder_of
from sequor.jobs.jobs import forget_old
from sequor.jobs.looks import ask_for_looks
from sequor.jobs.sweeping import sweep
from sequor.jobs.tasks import Kind, Spec, Work
from sequor.launch.background import Services
from sequor.operations import takes
from sequor.operations.reporting import Report
from sequor.recipe.model.export import ExportPart
from sequor.store.database import CHANGED, ChangedMeanwhileError, Store
from sequor.store.models import Job, Take, now


class Heard:
    """A queue that only hears the bell."""

    def __init__(self, waiting: int = 0) -> None:
        self.rung: list[str] = []
        self.many = waiting
        self.takes: list[str] = []

    def make_takes(self, photo_id: int, key: str) -> None:
        """It was rung for."""
        self.takes.append(key)

    def do_job(self, name: str, kind: str, lane: str) -> None:
        """It was rung for."""
        self.rung.append(name)

    def break_off(self, name: str) -> None:
        """Nobody is at it."""

    def waiting(self, worker: str | None = None) -> int:
        """So many messages."""
        return self.many

    def at_work(self) -> dict[str, int]:
        """Nobody says anything."""
        return {}


def asked(store: Store, kind: str = "look", **spec: object) -> str:
    with store.transaction() as session:
        ((bell, _),) = ask(session, [Asked(kind, kind, spec)])
    return bell.name


def row(store: Store, name: str) -> Job:
    with store.transaction() as session:
        return session.get_one(Job, name)


def let(store: Store, name: str, **values: object) -> None:
    with store.transaction() as session:
        session.execute(update(Job).where(Job.id == name).values(**values))


def test_what_only_another_version_knows_is_left_to_it(store: Store) -> None:
    """It is neither done, nor counted, nor rung for, and holds nothing else up."""
    ours = asked(store)
    theirs = asked(store)
    let(store, theirs, kind="hologram")
    let(store, ours, asked_at=now() - timedelta(minutes=1))
    let(store, theirs, asked_at=now() - timedelta(minutes=2))
    assert doing.do(store, theirs) is None
    heard = Heard()
    sweep(store, heard)
    assert heard.rung == [ours]
    assert (row(store, theirs).state, row(store, theirs).attempts) == ("waiting", 0)


def test_of_several_at_once_one_has_it(store: Store) -> None:
    name = asked(store)
    found = at_once(6, lambda _: claim(store, name))
    assert sum(one is not None for one in found) == 1
    assert row(store, name).attempts == 1


def test_a_claim_that_is_over_goes_to_another_and_the_first_changes_nothing(store: Store) -> None:
    name = asked(store)
    first = claim(store, name)
    assert first is not None and claim(store, name) is None
    let(store, name, lease_until=now() - timedelta(seconds=1))
    second = claim(store, name)
    assert second is not None
    assert not first.write(progress=0.9) and not first.end("done", "done")
    assert second.end("failed", "failed") and not second.end("done", "done")
    ended = row(store, name)
    assert (ended.state, ended.progress, ended.attempts, ended.owner) == ("failed", 0.0, 2, None)


def test_a_process_that_is_no_more_holds_nothing(store: Store) -> None:
    name = asked(store)
    assert claim(store, name) is not None
    gone = subprocess.Popen(["sleep", "60"])
    begun = claims._begun(gone.pid)
    let(store, name, owner=f"{socket.gethostname()[:30]} {gone.pid} {begun} x")
    assert claim(store, name) is None
    os.kill(gone.pid, signal.SIGKILL)
    gone.wait()
    assert claim(store, name) is not None
    # Of another machine nobody can say that here.
    let(store, name, owner=f"elsewhere {gone.pid} {begun} x")
    assert claim(store, name) is None


def test_a_stage_that_takes_longer_than_a_claim_holds_is_not_done_twice(
    store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(claims, "LEASE_SECONDS", 3.0)
    begun = []

    def slow(report: Report, work: Work) -> Spec:
        begun.append(threading.get_ident())
        time.sleep(8)
        return {}

    monkeypatch.setitem(tasks.KINDS, "slow", Kind("bulk", 60, slow))
    name = asked(store, "slow")
    worker = threading.Thread(target=doing.do, args=(store, name))
    worker.start()
    waited(lambda: begun)
    while worker.is_alive():
        doing.do(store, name)
        time.sleep(0.1)
    assert len(begun) == 1 and row(store, name).state == "done"


def test_what_the_database_lets_go_for_another_is_begun_again(
    store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Each second transaction is let go, as in a deadlock: the job is done, and counts as begun once."""
    real, turn = store.transaction, itertools.count()

    @contextlib.contextmanager
    def rivalled() -> Iterator[Session]:
        with real() as session:
            yield session
            if next(turn) % 2 == 0:
                raise ChangedMeanwhileError(CHANGED)

    def work(report: Report, work: Work) -> Spec:
        report(0.5, "at it", label="told")
        return {"notices": []}

    monkeypatch.setitem(tasks.KINDS, "short", Kind("bulk", 60, work))
    name = asked(store, "short")
    with monkeypatch.context() as meanwhile:
        meanwhile.setattr(store, "transaction", rivalled)
        assert doing.do(store, name) == {"notices": []}
    done = row(store, name)
    assert (done.state, done.attempts, done.label) == ("done", 1, "told")
    let(store, name, ended_at=now() - timedelta(days=2))
    with monkeypatch.context() as meanwhile:
        meanwhile.setattr(store, "transaction", rivalled)
        forget_old(store)
    with store.transaction() as session:
        assert session.get(Job, name) is None


def test_who_has_lost_a_claim_hears_it(store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    told = []

    def long(report: Report, work: Work) -> Spec:
        let(store, work.folder.name, owner="elsewhere 1 1 x")
        time.sleep(0.2)
        report(0.5, "still at it")
        told.append("went on")
        return {}

    monkeypatch.setitem(tasks.KINDS, "long", Kind("bulk", 60, long))
    name = asked(store, "long")
    doing.do(store, name)
    assert told == [] and row(store, name).state == "running"
    assert folder_of(store, name).is_dir()


def test_a_sweep_rings_for_what_waits_and_for_claims_that_are_over(store: Store) -> None:
    waiting, lost, held, fresh = (asked(store, number=n) for n in range(4))
    for name in (lost, held):
        assert claim(store, name) is not None
    past = now() - timedelta(seconds=60)
    let(store, waiting, asked_at=past)
    let(store, lost, asked_at=past, lease_until=now() - timedelta(seconds=1))
    let(store, held, asked_at=past)
    queue = Heard()
    assert sweep(store, queue) == 2 and set(queue.rung) == {waiting, lost}
    assert fresh not in queue.rung
    # It backs off while much is to be taken.
    assert sweep(store, Heard(waiting=sweeping.FEW + 1)) == 0


def test_a_sweep_rings_for_takes_that_nobody_makes_any_more(store: Store, bring: Importer) -> None:
    photo_id = bring(jpeg_bytes(smooth_picture(12, 9))).photo_id
    lost, held, done = (letter * 64 for letter in "abc")
    with store.transaction() as session:
        for key, state in ((lost, "running"), (held, "running"), (done, "done")):
            session.add(Take(photo_id=photo_id, made_for=key, seed=1, recipe={}, state=state))
    with store.only_one(f"{takes.LOCK}{held[: takes.LOCK_HASH]}"):
        queue = Heard()
        assert sweep(store, queue) == 1 and queue.takes == [lost]
        # Whoever takes the next message may be the one.
        busy = Heard(waiting=1)
        assert sweep(store, busy) == 0 and busy.takes == []


def test_a_sweep_removes_what_belongs_to_nobody(store: Store) -> None:
    name = asked(store)
    for one in (name, "left", "new"):
        (store.work / one).mkdir()
    old = time.time() - 2 * sweeping.LEFT_SECONDS
    for one in (name, "left"):
        os.utime(store.work / one, (old, old))
    sweep(store, Heard())
    assert {one.name for one in store.work.iterdir()} == {name, "new"}


def test_the_same_is_asked_for_once_and_begun_anew_when_it_failed(store: Store) -> None:
    with store.transaction() as session:
        wanted = [Asked("look", "x", {}, "a" * 64), Asked("look", "x", {}, "a" * 64), Asked("look", "x", {})]
        first = ask(session, wanted)
    assert [new for _, new in first] == [True, False, True]
    assert first[0][0] == first[1][0] != first[2][0]
    let(store, first[0][0].name, state="failed", code="time", attempts=3)
    with store.transaction() as session:
        assert ask(session, wanted[:1], revive=False) == [(first[0][0], False)]
        assert ask(session, wanted[:1]) == [(Bell(first[0][0].name, "look", "look"), True)]
    again = row(store, first[0][0].name)
    assert (again.state, again.code, again.attempts) == ("waiting", None, 0)


def test_photos_are_asked_to_be_looked_at_once(store: Store, bring: Importer) -> None:
    photos = [bring(jpeg_bytes(smooth_picture(90 + n, 60))).photo_id for n in range(3)]
    queue = Heard()
    assert ask_for_looks(store, queue, photos[:2]) == 2 and ask_for_looks(store, queue) == 1
    assert ask_for_looks(store, queue) == 0 and len(queue.rung) == 3
    with store.transaction() as session:
        session.execute(update(Job).values(state="failed"))
    assert ask_for_looks(store, queue) == 0


def test_exports_of_many_outlive_kills(store: Store, services: Services, bring: Importer) -> None:
    """A process, and a worker, while two jobs or more are running: each row ends once, with one file."""
    photos = [bring(jpeg_bytes(smooth_picture(2400 + n, 1600))).photo_id for n in range(10)]
    for leftover in store.work.iterdir():
        sweeping.remove(leftover)
    batches = Batches(store, services.background, None)
    batch = batches.export(photos, ExportPart(format="png"))

    def running() -> int:
        with store.transaction() as session:
            return session.scalar(select(func.count()).select_from(Job).where(Job.state == "running")) or 0

    killed = 0
    for whom in ("process", "worker"):
        waited(lambda: running() >= 2, 120)
        parent = services.workers["bulk"].pid
        victims = [int(one) for one in Path(f"/proc/{parent}/task/{parent}/children").read_text().split()]
        os.kill(victims[0] if whom == "process" else parent, signal.SIGKILL)
        killed += 1
        time.sleep(1)
    waited(lambda: not batches.standing(batch.id).working, 240)
    assert killed == 2 and batches.standing(batch.id).states == {"done": 10}
    files = batches.files(batch.id)
    assert len({one.file for one in files}) == 10 and all(one.file.is_file() for one in files)
    assert {one.name for one in store.work.iterdir()} == {one.file.parent.name for one in files}
    assert not list(store.work.glob("*/*.unfinished"))
