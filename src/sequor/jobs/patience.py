"""Waiting for a database that is just being started again, and for others that write to it."""

from __future__ import annotations

import functools
import random
import time
from collections.abc import Callable
from typing import ParamSpec, TypeVar

from sqlalchemy.exc import OperationalError

from sequor.store.database import ChangedMeanwhileError

DATABASE_AGAIN_SECONDS = 30

LET_GO_TIMES = 8
"""So often at most is begun again what the database has let go for somebody else's sake."""

T = TypeVar("T")
P = ParamSpec("P")


def patiently(what: Callable[[], T]) -> T:
    """Do something with the database; one that is just being started again is waited for.

    Raises OperationalError.
    """
    deadline = time.monotonic() + DATABASE_AGAIN_SECONDS
    while True:
        try:
            return what()
        except OperationalError:
            if time.monotonic() > deadline:
                raise
            time.sleep(0.5)


def begun_again(work: Callable[P, T]) -> Callable[P, T]:
    """A work of one transaction that is begun again when the database lets it go for another (a deadlock)."""

    @functools.wraps(work)
    def doing(*arguments: P.args, **named: P.kwargs) -> T:
        for _ in range(LET_GO_TIMES):
            try:
                return work(*arguments, **named)
            except ChangedMeanwhileError:
                time.sleep(random.uniform(0.01, 0.1))
        return work(*arguments, **named)

    return doing
