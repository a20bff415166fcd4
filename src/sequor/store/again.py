"""Beginning again what the database lets go for somebody else's sake."""

from __future__ import annotations

import functools
import random
import time
from collections.abc import Callable
from typing import ParamSpec, TypeVar

from .database import ChangedMeanwhileError

LET_GO_TIMES = 8
"""So often at most."""

T = TypeVar("T")
P = ParamSpec("P")


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
