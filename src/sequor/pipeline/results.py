"""Results of stages, kept for a while by their fingerprints, each worked out once."""

from __future__ import annotations

from collections import OrderedDict, defaultdict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from threading import Lock
from typing import Any

KEPT = 64
"""Results of each stage: so many recipes are dragged, compared and undone at a time."""


class Results:
    """The last results of every stage. Who asks for one that is being worked out waits for it."""

    def __init__(self, kept: int = KEPT) -> None:
        self._kept = kept
        self._of: dict[str, OrderedDict[str, Any]] = defaultdict(OrderedDict)
        self._making: dict[str, list[Any]] = {}
        self._lock = Lock()
        self.runs: dict[str, int] = defaultdict(int)
        """How often each stage was worked out."""

    def get(self, stage: str, fingerprint: str, make: Callable[[], Any], most: int | None = None) -> Any:
        """The result of a stage; what ``make`` raises is not kept. ``most``: so many of it are kept at
        most."""
        with self._turn(fingerprint):
            with self._lock:
                known = self._of[stage]
                if fingerprint in known:
                    known.move_to_end(fingerprint)
                    return known[fingerprint]
                self.runs[stage] += 1
            made = make()
            with self._lock:
                known[fingerprint] = made
                while len(known) > min(self._kept, most or self._kept):
                    known.popitem(last=False)
            return made

    def clear(self) -> None:
        """Forget all of them."""
        with self._lock:
            self._of.clear()
            self.runs.clear()

    @contextmanager
    def _turn(self, fingerprint: str) -> Iterator[None]:
        """One maker at a time for each fingerprint."""
        with self._lock:
            held = self._making.setdefault(fingerprint, [Lock(), 0])
            held[1] += 1
        try:
            with held[0]:
                yield
        finally:
            with self._lock:
                held[1] -= 1
                if not held[1]:
                    self._making.pop(fingerprint, None)


RESULTS = Results()
