"""The private Redis and the worker: what is asked for is made, whatever ends meanwhile."""

from __future__ import annotations

import os
import signal
import subprocess
import time
from pathlib import Path

import pytest
from clients import Importer, waited
from pictures import jpeg_bytes, smooth_picture
from sqlalchemy import Engine
from sqlalchemy.exc import OperationalError

from sequor.advice.edges import with_corners
from sequor.jobs.background import Background, BackgroundGoneError
from sequor.launch import background
from sequor.launch.background import Services
from sequor.launch.mariadb import StartError
from sequor.operations import takes
from sequor.operations.photos import get_photo
from sequor.operations.revising import revise
from sequor.recipe.parse import build
from sequor.store.database import CHANGED, ChangedMeanwhileError, Store
from sequor.store.models import Take

STARTED_AGAIN = 240
"""Seconds."""
PHOTO = jpeg_bytes(smooth_picture(1500, 1000))


@pytest.fixture
def photo(store: Store, bring: Importer) -> int:
    """A photo whose corners are to be filled."""
    made = bring(PHOTO).photo_id
    now = get_photo(store, made)
    turned = build({**now.recipe.model_dump(mode="json"), "correction": {"by_hand": {"roll": 5}}})
    recipe = with_corners(turned, "fill", "same size").recipe
    revise(store, made, now.photo.changes, recipe, "Corners: filled")
    return made


def of(store: Store, photo: int) -> list[Take]:
    return takes.takes_of(store, photo)[1]


def all_done(store: Store, photo: int) -> bool:
    return all(take.state == "done" for take in of(store, photo))


def children_of(pid: int) -> list[int]:
    found = subprocess.run(["pgrep", "-P", str(pid)], capture_output=True, text=True, check=False)
    return [int(word) for word in found.stdout.split()]


def test_takes_are_made_by_the_worker(services: Services, store: Store, photo: int) -> None:
    services.background.make_takes(photo, takes.ask(store, photo, [1, 2]))
    waited(lambda: all_done(store, photo))
    assert oct(services._run.stat().st_mode)[-3:] == "700"


@pytest.mark.parametrize("whole", [False, True])
def test_a_killed_worker_loses_nothing(services: Services, store: Store, photo: int, whole: bool) -> None:
    """The process that makes the take, or the worker with it: the take is taken up again and made."""
    services.background.make_takes(photo, takes.ask(store, photo, [1, 2]))
    waited(lambda: any(take.state == "running" and take.parts for take in of(store, photo)))
    children = children_of(services.workers["fill"].pid)
    assert children
    if whole:
        services.workers["fill"].process.kill()
    for child in children:
        os.kill(child, signal.SIGKILL)
    waited(lambda: all_done(store, photo))
    assert max(take.attempts for take in of(store, photo)) == 2


def test_redis_gone_is_said_and_nothing_is_lost(
    services: Services, store: Store, photo: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(background, "AGAIN_SECONDS", 10.0)
    services.redis.process.kill()
    services.redis.process.wait()
    key = takes.ask(store, photo, [1])
    with pytest.raises(BackgroundGoneError, match="is not answering. Nothing is lost"):
        services.background.make_takes(photo, key)
    assert [take.state for take in of(store, photo)] == ["waiting"]
    waited(lambda: all_done(store, photo))


def test_a_database_that_is_away_as_well_does_not_end_the_watch(
    services: Services, store: Store, photo: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Worker and database end at once: what waits is asked for as soon as both are there again."""
    real, asked = background.wanted, []

    def away(there: Store) -> list[tuple[int, str]]:
        asked.append(1)
        if len(asked) < 3:
            raise OperationalError("SELECT", {}, ConnectionRefusedError())
        return real(there)

    monkeypatch.setattr(background, "wanted", away)
    takes.ask(store, photo, [1])
    services.workers["fill"].process.kill()
    waited(lambda: all_done(store, photo))
    assert len(asked) >= 3


def test_nothing_that_goes_wrong_ends_the_watch(
    services: Services, store: Store, photo: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Two that write at once, of whom the database lets one go: what ends afterwards is started again."""
    swept: list[Store] = []

    def let_go(there: Store, queue: Background) -> int:
        swept.append(there)
        raise ChangedMeanwhileError(CHANGED)

    monkeypatch.setattr(background, "SWEEP_SECONDS", 0.1)
    monkeypatch.setattr(background, "sweep", let_go)
    waited(lambda: swept)
    takes.ask(store, photo, [1])
    services.workers["fill"].process.kill()
    waited(lambda: all_done(store, photo), STARTED_AGAIN)


def test_a_worker_that_takes_nothing_is_started_again(
    services: Services, store: Store, photo: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """One that lives and does not hear; one that is at work is left alone."""
    monkeypatch.setattr(background, "SWEEP_SECONDS", 0.5)
    services._patience["fill"] = 2.0
    deaf = services.workers["fill"]
    waited(lambda: services.background.is_at_work("fill") is False and children_of(deaf.pid), STARTED_AGAIN)
    os.kill(deaf.pid, signal.SIGSTOP)
    # The first message it has taken before it hears nothing any more.
    for _ in range(2):
        services.background.make_takes(photo, takes.ask(store, photo, [1]))
    waited(lambda: deaf.ended, STARTED_AGAIN)
    waited(lambda: all_done(store, photo), STARTED_AGAIN)
    assert not any(services.workers[name].ended for name in ("asked", "bulk"))


def test_a_worker_with_much_to_do_is_left_alone(
    services: Services, store: Store, photo: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    busy = services.workers["fill"]
    services.background.make_takes(photo, takes.ask(store, photo, [1, 2, 3]))
    waited(lambda: services.background.is_at_work("fill"), STARTED_AGAIN)
    monkeypatch.setattr(background, "SWEEP_SECONDS", 0.1)
    services._patience["fill"] = 0.1
    for _ in range(3):
        services.background.make_takes(photo, takes.ask(store, photo, [1, 2, 3]))
    waited(lambda: all_done(store, photo), STARTED_AGAIN)
    assert services.workers["fill"] is busy and not busy.ended


def test_a_stop_in_the_middle_is_taken_up_by_the_next_start(
    engine: Engine, store: Store, photo: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    url = engine.url.render_as_string(hide_password=False)
    first = Services(store, url)
    try:
        first.watch()
        first.background.make_takes(photo, takes.ask(store, photo, [1, 2, 3]))
        waited(lambda: any(take.state == "running" and take.parts for take in of(store, photo)))
    finally:
        begun = time.monotonic()
        first.stop()
    assert time.monotonic() - begun < 8
    assert (
        not Path(first._run).exists()
        and first.redis.ended
        and all(one.ended for one in first.workers.values())
    )
    assert takes.wanted(store)
    second = Services(store, url)
    try:
        second.watch()
        waited(lambda: all_done(store, photo))
    finally:
        second.stop()


def test_without_redis_the_start_says_what_to_install(
    store: Store, engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("PATH", "/nowhere")
    with pytest.raises(StartError, match="install the Debian package redis-server"):
        Services(store, str(engine.url))


def test_a_queue_that_never_was_does_not_hold_anybody_up(tmp_path: Path) -> None:
    begun = time.monotonic()
    with pytest.raises(BackgroundGoneError):
        Background(f"redis+socket://{tmp_path}/none").make_takes(1, "a" * 64)
    assert time.monotonic() - begun < 10
