"""Waiting for a database that is just being started again, and for others that write to it."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TypeVar

from sqlalchemy.exc import OperationalError

from sequor.store.again import begun_again

DATABASE_AGAIN_SECONDS = 30

T = TypeVar("T")


def patiently(what: Callable[[], T]) -> T:
    """Do something with the database in one transaction; one that is just being started again is waited for,
    and what is let go for another is begun again.

    Raises OperationalError.
    """
    deadline = time.monotonic() + DATABASE_AGAIN_SECONDS
    while True:
        try:
            return begun_again(what)()
        except OperationalError:
            if time.monotonic() > deadline:
                raise
            time.sleep(0.5)
