"""Doing a job, in a process of a worker: from its row to what comes of it."""

from __future__ import annotations

import logging
from collections.abc import Callable

from sqlalchemy.exc import OperationalError

from sequor.operations.telling import MOST_ATTEMPTS, UNFINISHED, StoppedError, Telling
from sequor.painter.client import Painter
from sequor.store.again import begun_again
from sequor.store.database import Store
from sequor.store.models import Job, now
from sequor.store.owners import acting_for

from .claim import Claim, claim
from .failures import UNEXPECTED, BrokenOffError, failure_of
from .folders import folder_of, forget, hand_over, received
from .limits import memory_of
from .logs import belonging_to
from .patience import patiently
from .tasks import KINDS, Spec, Work

log = logging.getLogger(__name__)


def nothing() -> None:
    """What is done about a work that goes on and that nobody wants, where it is done beside others."""


def do(
    store: Store, name: str, painter: Painter | None = None, lost: Callable[[], None] = nothing
) -> Spec | None:
    """Do a job that is still wanted, whoever asked for it how often; what came of it, None without. ``lost``
    ends the work when it does not hear that the job was cancelled.

    Raises OperationalError when the database stays away: the job is to be asked for again.
    """
    mine = claim(store, name)
    if mine is None:
        return None
    if mine.too_often:
        _fail(mine, BrokenOffError(MOST_ATTEMPTS))
        return None
    with belonging_to(name), acting_for(mine.job.account_id):
        return _do(store, mine, painter, lost)


def _do(store: Store, mine: Claim, painter: Painter | None, lost: Callable[[], None]) -> Spec | None:
    kind = KINDS[mine.job.kind]
    folder_of(store, mine.job.id).mkdir(exist_ok=True)
    try:
        with mine.renewed(lost), memory_of(kind.memory):
            if kind.brings:
                received(store, mine.job.id, kind.brings)
            result = kind.run(Telling(mine.write, kind.tells), _work(store, mine, painter))
            hand_over(store, mine.job.id, *kind.keeps)
    except StoppedError:
        _forget(mine)
    except OperationalError:
        raise
    except Exception as error:
        if failure_of(error) is None:
            log.exception("a job of the kind %s failed", mine.job.kind)
        _fail(mine, error)
    else:
        ended = {"progress": 1.0, "result": result, "notices": result.get("notices", [])}
        if not patiently(lambda: mine.end("done", "done", **ended)) or not kind.keeps:
            _forget(mine)
        return result
    return None


def _work(store: Store, mine: Claim, painter: Painter | None) -> Work:
    return Work(
        folder_of(store, mine.job.id),
        mine.job.spec,
        store,
        painter,
        lambda **values: patiently(lambda: mine.write(**values)),
    )


@begun_again
def fail(store: Store, name: str, why: Exception) -> None:
    """Put down why a job failed whose process could not: it was killed, or will not be begun again."""
    failure = failure_of(why) or UNEXPECTED
    with store.transaction() as session:
        job = session.get(Job, name, with_for_update=True)
        if job is None or job.state not in UNFINISHED:
            return
        job.state, job.words, job.ended_at = "failed", "failed", now()
        job.code, job.error, job.owner = failure.code, failure.words, None
    forget(store, name)


def _fail(mine: Claim, why: Exception) -> None:
    """Put down why a job failed."""
    failure = failure_of(why) or UNEXPECTED
    patiently(lambda: mine.end("failed", "failed", code=failure.code, error=failure.words))
    _forget(mine)


@begun_again
def _forget(mine: Claim) -> None:
    """Remove what a job wrote, unless somebody else is doing it by now."""
    with mine.store.transaction() as session:
        row = session.get(Job, mine.job.id)
    if row is None or row.state not in ("waiting", "running"):
        forget(mine.store, mine.job.id)
