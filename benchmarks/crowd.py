"""Many photos, and the workers that do things to them."""

from __future__ import annotations

import shutil
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import cv2
import numpy as np
from clients import Importer
from pictures import DEMO, jpeg_bytes
from PIL import Image
from sqlalchemy import func, select, text

from sequor.jobs.background import WORKERS, Worker
from sequor.jobs.claim import is_gone
from sequor.jobs.patience import patiently
from sequor.launch.background import Services
from sequor.launch.mariadb import MariaDB
from sequor.store.database import Store
from sequor.store.models import Job

SIX, TWO = (3000, 2000), (1732, 1155)
ENDED = ("done", "failed", "cancelled")


@contextmanager
def workers(store: Store, database: MariaDB, bulk: int = 2) -> Iterator[Services]:
    """Redis and the workers, with so many processes for many photos."""
    before = WORKERS["bulk"]
    WORKERS["bulk"] = Worker(before.lanes, bulk, before.gives_way)
    services = Services(store, database.url)
    services.watch()
    try:
        yield services
    finally:
        services.stop()
        WORKERS["bulk"] = before


def views(count: int, size: tuple[int, int]) -> Iterator[bytes]:
    """Photos made from the demo photos, each another one: rolled by up to three degrees."""
    random = np.random.default_rng(1)
    files = sorted(DEMO.glob("*.jpg"))
    scenes = [
        cv2.resize(np.asarray(Image.open(file).convert("RGB")), size, interpolation=cv2.INTER_AREA)
        for file in files
    ]
    for number in range(count):
        turn = cv2.getRotationMatrix2D((size[0] / 2, size[1] / 2), float(random.uniform(-3, 3)), 1.12)
        yield jpeg_bytes(cv2.warpAffine(scenes[number % len(scenes)], turn, size), quality=90)


def imported(store: Store, count: int, size: tuple[int, int]) -> list[int]:
    """So many photos, brought without a worker."""
    bring = Importer(store)
    found = [bring(content, f"IMG_{n:04d}.jpg").photo_id for n, content in enumerate(views(count, size))]
    for folder in store.work.iterdir():
        shutil.rmtree(folder)
    return found


def straightened(store: Store) -> None:
    """Each with a warp: an export of a photo that is not turned would be too easy; and looked at already."""
    with store.transaction() as session:
        session.execute(text("UPDATE photos SET confidence = 0"))
        session.execute(
            text(
                "UPDATE revisions SET recipe = JSON_SET(recipe, '$.correction.by_hand.roll', 1.7,"
                " '$.correction.by_hand.pitch', 4.0)"
            )
        )


def until_ended(store: Store, kind: str, seconds: float = 3600) -> float:
    """How long it takes until no job of a kind is left to do."""
    begun = time.perf_counter()
    while time.perf_counter() - begun < seconds:
        if not patiently(lambda: _left(store, kind)):
            return time.perf_counter() - begun
        time.sleep(0.1)
    raise TimeoutError(kind)


def _left(store: Store, kind: str) -> int:
    with store.transaction() as session:
        left = Job.kind == kind, Job.state.not_in(ENDED)
        return session.scalar(select(func.count()).select_from(Job).where(*left)) or 0


def running(store: Store) -> int:
    """Jobs that a living process is really at."""
    with store.transaction() as session:
        running = Job.state == "running", Job.progress > 0.02
        owners = session.scalars(select(Job.owner).where(*running)).all()
    return sum(owner is not None and not is_gone(owner) for owner in owners)


def children_of(pid: int) -> list[int]:
    """The processes that a process has begun."""
    try:
        told = Path(f"/proc/{pid}/task/{pid}/children").read_text()
    except OSError:
        return []
    return [int(one) for one in told.split()]
