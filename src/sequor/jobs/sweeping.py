"""Sweeping now and then: what nobody does is rung for again, what belongs to nobody is removed."""

from __future__ import annotations

import time
from datetime import timedelta
from pathlib import Path

from sqlalchemy import and_, or_, select

from sequor.operations.takes import wanted
from sequor.store.database import Store
from sequor.store.models import Job, now

from .asking import RUNG_AT_ONCE, Bell, WorkQueue, ring
from .jobs import forget_old, remove

WAITED = timedelta(seconds=10)
FEW = 50
"""While more than so many messages wait to be taken, nobody is rung for."""
LEFT_SECONDS = 300.0
"""What has lain in the work folder for so long, and belongs to no job, was left by a process that is gone."""


def sweep(store: Store, queue: WorkQueue) -> int:
    """Ring for jobs that have waited long, or whose claim is over, and for takes that nobody makes; how many.
    Raises BackgroundGoneError, SQLAlchemyError."""
    forget_old(store)
    _clear(store)
    if queue.waiting() > FEW:
        return 0
    due = or_(
        and_(Job.state == "waiting", Job.asked_at < now() - WAITED),
        and_(Job.state == "running", Job.lease_until < now()),
    )
    query = select(Job.id, Job.kind, Job.lane).where(due).order_by(Job.asked_at).limit(RUNG_AT_ONCE)
    with store.transaction() as session:
        jobs = [Bell(*row) for row in session.execute(query)]
    ring(queue, jobs)
    return len(jobs) + _ring_for_takes(store, queue)


def _ring_for_takes(store: Store, queue: WorkQueue) -> int:
    # Takes have no claim that runs out; the lock of who makes them ends with its process, on any machine.
    if queue.waiting("fill"):
        return 0
    left = wanted(store, left_alone=True)
    for photo_id, key in left:
        queue.make_takes(photo_id, key)
    return len(left)


def _clear(store: Store) -> None:
    old = [one for one in store.work.iterdir() if time.time() - _changed(one) > LEFT_SECONDS]
    if not old:
        return
    names = [one.name for one in old]
    with store.transaction() as session:
        known = set(session.scalars(select(Job.id).where(Job.id.in_(names))))
    for one in old:
        if one.name not in known:
            remove(one)


def _changed(path: Path) -> float:
    try:
        return path.stat().st_mtime
    except OSError:
        return time.time()
