"""Who does a job: a claim on its row that holds as long as it is renewed.

The rows are the truth, the queue is a bell: a job may be rung for as often as anybody likes, and it is done
by the one that has the claim. A claim is gone when its time is over, or when the process that has it is no
more, where that can be seen.
"""

from __future__ import annotations

import contextlib
import os
import secrets
import socket
import threading
from collections.abc import Callable, Iterator
from datetime import timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import CursorResult, update
from sqlalchemy.exc import OperationalError

from sequor.operations.telling import MOST_ATTEMPTS
from sequor.store.again import begun_again
from sequor.store.database import ChangedMeanwhileError, Store
from sequor.store.models import Job, WorkState, now

from .tasks import KINDS

LEASE = "SEQUOR_LEASE"
"""Seconds that a claim holds without being renewed, in the environment."""

LEASE_SECONDS = float(os.environ.get(LEASE, "60"))
RENEWED_SECONDS = 2.0
"""How often it is looked whether the job is still this process's."""
HEARS_SECONDS = 1.0
"""Within so much a work that tells how far it is hears that it is not."""


class Claim:
    """The claim of this process on a job; ``too_often``: it has ended too many processes, and is only to be
    given up."""

    def __init__(self, store: Store, job: Job, too_often: bool) -> None:
        self.store, self.job, self.too_often = store, job, too_often

    @begun_again
    def write(self, **values: Any) -> bool:
        """Write to the job's row while it is this process's; whether it is. Raises OperationalError."""
        with self.store.transaction() as session:
            mine = Job.id == self.job.id, Job.owner == self.job.owner, Job.state == "running"
            done = session.execute(update(Job).where(*mine).values(**values))
            assert isinstance(done, CursorResult)
            # A row that holds these values already is matched but not changed; MariaDB may count either.
            if done.rowcount > 0:
                return True
            row = session.get(Job, self.job.id, populate_existing=True)
            return row is not None and row.owner == self.job.owner and row.state == "running"

    def end(self, state: WorkState, words: str, **values: Any) -> bool:
        """Put down how the job has ended; whether it was still this process's. Raises OperationalError."""
        ended = {"state": state, "words": words, "ended_at": now(), "owner": None, "lease_until": None}
        return self.write(**ended, **values)

    @contextlib.contextmanager
    def renewed(self, lost: Callable[[], None]) -> Iterator[None]:
        """Renew the claim meanwhile, in a thread: a stage may take longer than a claim holds. ``lost`` is
        called there when the job is not this process's any more, and the work goes on as if it were."""
        over = threading.Event()

        def renew() -> None:
            while not over.wait(min(LEASE_SECONDS / 4, RENEWED_SECONDS)):
                # Without the database nobody else can claim it either.
                with contextlib.suppress(OperationalError, ChangedMeanwhileError):
                    if not self.write(lease_until=_lease()):
                        if not over.wait(HEARS_SECONDS):
                            lost()
                        return

        thread = threading.Thread(target=renew, daemon=True)
        thread.start()
        try:
            yield
        finally:
            over.set()
            thread.join()


@begun_again
def claim(store: Store, name: str) -> Claim | None:
    """Claim a job; None when it has ended, somebody else does it, or only another version of Sequor knows
    its kind. Raises OperationalError."""
    with store.transaction() as session:
        job = session.get(Job, name, with_for_update=True)
        if job is None or job.kind not in KINDS or not is_free(job):
            return None
        too_often = job.attempts >= MOST_ATTEMPTS
        if not too_often:
            job.attempts += 1
        job.state, job.owner, job.lease_until, job.begun_at = "running", _me(), _lease(), now()
        return Claim(store, job, too_often)


def is_free(job: Job) -> bool:
    """Whether nobody has a claim on a job that has not ended."""
    if job.state != "running":
        return job.state == "waiting"
    return job.owner is None or job.lease_until is None or job.lease_until < now() or is_gone(job.owner)


def _lease() -> Any:
    return now() + timedelta(seconds=LEASE_SECONDS)


def _me() -> str:
    return f"{socket.gethostname()[:30]} {os.getpid()} {_begun(os.getpid())} {secrets.token_hex(4)}"


def is_gone(owner: str) -> bool:
    """Whether the process that has a claim was one of this machine, and has ended."""
    host, process, begun, _ = owner.split(" ")
    return host == socket.gethostname()[:30] and _begun(int(process)) != begun


def _begun(process: int) -> str:
    """When a process began, in ticks since the machine did (proc(5), field 22 of stat); empty for none."""
    try:
        return Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()[19]
    except (OSError, IndexError):
        return ""
