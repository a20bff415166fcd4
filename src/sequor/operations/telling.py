"""How work that takes long tells in its row how far it is, and hears that nobody wants it any more."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from typing import Any

from sqlalchemy import CursorResult, update
from sqlalchemy.exc import OperationalError

from sequor.store.again import begun_again
from sequor.store.database import Store
from sequor.store.models import Take, WorkState

UNFINISHED: tuple[WorkState, ...] = ("waiting", "running")
MOST_ATTEMPTS = 3
TELL_SECONDS = 0.15

log = logging.getLogger(__name__)


class StoppedError(Exception):
    """The work was cancelled while it was done."""


@begun_again
def write_unfinished(store: Store, key: int, **values: Any) -> bool:
    """Write to the row of a take that has not ended; whether there was one."""
    with store.transaction() as session:
        query = update(Take).where(Take.id == key, Take.state.in_(UNFINISHED)).values(**values)
        done = session.execute(query)
        assert isinstance(done, CursorResult)
        # A row that holds these values already is matched but not changed; MariaDB may count either.
        if done.rowcount > 0:
            return True
        row = session.get(Take, key)
        return row is not None and row.state in UNFINISHED


class Telling:
    """Tells how far a work is, not too often, by what ``writes`` to its row; raises StoppedError once the row
    is not this work's any more."""

    def __init__(self, writes: Callable[..., bool], every: float = TELL_SECONDS) -> None:
        self.writes, self.every = writes, every
        self.last = time.monotonic()

    def __call__(self, share: float, words: str, **values: Any) -> None:
        if not values and time.monotonic() - self.last < self.every:
            return
        self.last = time.monotonic()
        values |= {"state": "running", "progress": share, "words": words}
        try:
            wanted = self.writes(**values)
        except OperationalError:
            # The work can go on; whoever looks at it cannot see anything now either.
            log.warning("the database does not answer: how far work is was not told")
            return
        if not wanted:
            raise StoppedError
