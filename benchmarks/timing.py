"""How long something takes."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable


def median(work: Callable[[], object], times: int = 9) -> float:
    """The median of so many, in seconds."""
    return statistics.median(best(work, 1) for _ in range(times))


def best(work: Callable[[], object], times: int = 5) -> float:
    """The shortest of so many, in seconds."""
    found = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        found.append(time.perf_counter() - begun)
    return min(found)
