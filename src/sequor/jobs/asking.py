"""Asking for jobs: rows first, which are the truth, then the bell."""

from __future__ import annotations

import hashlib
import itertools
import json
import secrets
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any, Protocol

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from sequor.store.chunks import chunks
from sequor.store.models import Job
from sequor.store.owners import owner

from .tasks import KINDS, Spec

NAME_LENGTH = 16
RUNG_AT_ONCE = 1000
"""Jobs that are rung for when they are asked for; the rest is rung for as these are done."""


class WorkQueue(Protocol):
    """What lets work be done that rows ask for."""

    def make_takes(self, photo_id: int, key: str) -> None:
        """Let the wanted takes of one frame be made. Raises BackgroundGoneError."""

    def do_job(self, name: str, kind: str, lane: str) -> None:
        """Let a job be done. Raises BackgroundGoneError."""

    def break_off(self, name: str) -> None:
        """Let the process that does a job be killed, if there is one."""

    def waiting(self, worker: str | None = None) -> int:
        """How many messages nobody, or this worker, has taken yet. Raises BackgroundGoneError."""

    def at_work(self) -> dict[str, int]:
        """How much each worker that says something is doing. Raises BackgroundGoneError."""


@dataclass(frozen=True)
class Asked:
    """What is asked for; ``made_of``: what is the same is done once; ``lane`` None: the kind's own;
    ``account``: whose it is, None: that of whoever asks."""

    kind: str
    label: str
    spec: Spec
    made_of: str | None = None
    lane: str | None = None
    account: int | None = None


@dataclass(frozen=True)
class Bell:
    """What is rung for a job."""

    name: str
    kind: str
    lane: str


def hash_of(*parts: Any) -> str:
    """The hash of all that a result depends on."""
    return hashlib.sha256(json.dumps(parts, sort_keys=True).encode()).hexdigest()


def new_name() -> str:
    """A name for a job."""
    return secrets.token_hex(NAME_LENGTH // 2)


def ask(session: Session, wanted: Sequence[Asked], revive: bool = True) -> list[tuple[Bell, bool]]:
    """Put down what is wanted; for each its job, and whether it is to be rung for. What is there already
    under the same hash is that job; ``revive``: one that failed or was cancelled is begun anew."""
    there: dict[str, Job] = {}
    hashes = [one.made_of for one in wanted if one.made_of is not None]
    for some in chunks(hashes):
        query = select(Job).where(Job.made_of.in_(some)).with_for_update()
        there |= {job.made_of: job for job in session.scalars(query) if job.made_of is not None}
    found: list[tuple[Bell, bool]] = []
    rows: list[dict[str, Any]] = []
    made: dict[str, Bell] = {}
    for one in wanted:
        known = there.get(one.made_of or "")
        if known is not None:
            begins = revive and known.state in ("failed", "cancelled")
            if begins:
                begin_anew(known)
            found.append((Bell(known.id, known.kind, known.lane), begins))
            continue
        if one.made_of in made:
            found.append((made[one.made_of], False))
            continue
        lane = one.lane or KINDS[one.kind].lane
        bell = Bell(new_name(), one.kind, lane)
        if one.made_of is not None:
            made[one.made_of] = bell
        rows.append(
            {
                "account_id": owner() if one.account is None else one.account,
                "id": bell.name,
                "kind": one.kind,
                "lane": lane,
                "made_of": one.made_of,
                "label": one.label[:255],
                "spec": one.spec,
                "notices": [],
            }
        )
        found.append((bell, True))
    # Who asks for the same at the same time was first, or waits here for this one.
    for part in chunks(rows):
        session.execute(insert(Job).prefix_with("IGNORE"), part)
    first: dict[str, str] = {}
    for some in chunks(list(made)):
        named = select(Job.made_of, Job.id).where(Job.made_of.in_(some))
        first |= {made_of: name for made_of, name in session.execute(named) if made_of is not None}
    others = {bell.name: first[made_of] for made_of, bell in made.items() if first[made_of] != bell.name}
    return [
        (replace(bell, name=others[bell.name]), False) if bell.name in others else (bell, new)
        for bell, new in found
    ]


def begin_anew(job: Job) -> None:
    """Let a job that has ended wait again."""
    job.state, job.attempts, job.progress, job.words = "waiting", 0, 0.0, "Waiting"
    job.code = job.error = job.result = job.ended_at = job.owner = job.lease_until = None
    job.notices = []


def ring(queue: WorkQueue, jobs: Iterable[Bell]) -> None:
    """Ring for jobs, not for all of very many; those of a kind that only another version of the program knows
    are left to it. Raises BackgroundGoneError."""
    for job in itertools.islice((one for one in jobs if one.kind in KINDS), RUNG_AT_ONCE):
        queue.do_job(job.name, job.kind, job.lane)
