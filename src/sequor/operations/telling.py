"""How work that takes long tells in its row how far it is, and hears that nobody wants it any more."""

from __future__ import annotations

import logging
import time
from typing import Any

from sqlalchemy import CursorResult, update
from sqlalchemy.exc import OperationalError

from sequor.store.database import Store
from sequor.store.models import Job, Take, WorkState

UNFINISHED: tuple[WorkState, ...] = ("waiting", "running")
MOST_ATTEMPTS = 3
TELL_SECONDS = 0.15

log = logging.getLogger(__name__)


class StoppedError(Exception):
    """The work was cancelled while it was done."""


def write_unfinished(store: Store, of: type[Take | Job], key: int | str, **values: Any) -> bool:
    """Write to a row of work that has not ended; whether there was one."""
    with store.transaction() as session:
        query = update(of).where(of.id == key, of.state.in_(UNFINISHED)).values(**values)
        done = session.execute(query)
        assert isinstance(done, CursorResult)
        # A row that holds these values already is matched but not changed; MariaDB may count either.
        if done.rowcount > 0:
            return True
        row: Take | Job | None = session.get(of, key)  # type: ignore[assignment]
        return row is not None and row.state in UNFINISHED


class Telling:
    """Tells how far a work is, not too often; raises StoppedError once it was cancelled."""

    def __init__(self, store: Store, of: type[Take | Job], key: int | str) -> None:
        self.store, self.of, self.key = store, of, key
        self.last = 0.0

    def __call__(self, share: float, words: str, **values: Any) -> None:
        if not values and time.monotonic() - self.last < TELL_SECONDS:
            return
        self.last = time.monotonic()
        values |= {"state": "running", "progress": share, "words": words}
        try:
            wanted = write_unfinished(self.store, self.of, self.key, **values)
        except OperationalError:
            # The work can go on; whoever looks at it cannot see anything now either.
            log.warning("the database does not answer: how far %s is was not told", self.key)
            return
        if not wanted:
            raise StoppedError
