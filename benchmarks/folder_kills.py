"""Workers, processes, Redis and the database killed again and again: every row ends once, with one file."""

from __future__ import annotations

import os
import signal
import time

import numpy as np
from sqlalchemy import func, select

from benchmarks.crowd import SIX, children_of, imported, running, straightened, until_ended, workers
from benchmarks.stores import installation
from sequor.jobs.batches import Batches
from sequor.jobs.patience import patiently
from sequor.jobs.sweeping import sweep
from sequor.launch.background import Services
from sequor.launch.mariadb import MariaDB
from sequor.recipe.model.export import ExportPart
from sequor.store.database import Store
from sequor.store.models import BatchPhoto, Job


def kills(count: int = 100) -> None:
    """Workers, their processes, Redis and the database killed while two jobs or more are running."""
    random = np.random.default_rng(7)
    done: dict[str, int] = {}
    with installation() as (store, database), workers(store, database) as services:
        photos = imported(store, 24, SIX)
        straightened(store)
        batches = Batches(store, services.background, None)
        begun, qualities = [], iter(range(100))
        while sum(done.values()) < count:
            if patiently(lambda: running(store)) < 2:
                if patiently(lambda: _waiting(store)) < 4:
                    wanted = ExportPart(quality=1 + next(qualities))
                    begun.append(patiently(lambda wanted=wanted: batches.export(photos, wanted)))
                time.sleep(0.02)
                continue
            whom = ("child", "worker", "redis", "database")[int(random.choice(4, p=[0.55, 0.25, 0.12, 0.08]))]
            if _kill(whom, services, database):
                done[whom] = done.get(whom, 0) + 1
            time.sleep(float(random.uniform(0.2, 1.2)))
        until_ended(store, "write")
        sweep(store, services.background)
        with store.transaction() as session:
            rows = session.execute(select(Job.state, Job.attempts)).all()
            jobs = set(session.scalars(select(Job.id)))
            shared = session.scalar(select(func.count()).select_from(BatchPhoto))
        states = {state: sum(one == state for one, _ in rows) for state, _ in rows}
        files = sorted(path.parent.name for path in store.work.glob("*/export"))
        left = [path.name for path in store.work.iterdir() if path.name not in jobs]
        unfinished = list(store.work.glob("*/*.unfinished"))
        print(f"{sum(done.values())} kills while two jobs or more were running: {done}")
        print(
            f"  {len(rows)} jobs of {shared} photos: {states}; files {len(files)},"
            f" left over {left + unfinished}"
        )
        assert len(files) == states.get("done", 0) == len(set(files))
        assert not left and set(states) <= {"done", "failed"}
        for one in begun:
            print(f"  batch {one.id}: {batches.standing(one.id).states}", end="")
        print()


def _waiting(store: Store) -> int:
    with store.transaction() as session:
        return session.scalar(select(func.count()).select_from(Job).where(Job.state == "waiting")) or 0


def _kill(whom: str, services: Services, database: MariaDB) -> bool:
    try:
        if whom == "child":
            children = children_of(services.workers["bulk"].pid)
            if not children:
                return False
            os.kill(children[0], signal.SIGKILL)
        elif whom == "worker":
            os.kill(services.workers["bulk"].pid, signal.SIGKILL)
        elif whom == "redis":
            os.kill(services.redis.pid, signal.SIGKILL)
        else:
            os.kill(database.pid or 0, signal.SIGKILL)
    except ProcessLookupError:
        return False
    return True
