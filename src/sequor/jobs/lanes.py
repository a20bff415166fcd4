"""Lanes: so many jobs at once, in the order they came; a slow one does not hold up the others for long."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable

AT_ONCE = 2
LENT_AT_MOST = 2
"""Slow jobs beside which another may begin."""

SLOW_SECONDS = 10.0


class Lane:
    """Runs what is added in threads, at most ``AT_ONCE`` together.

    One that has run for ``SLOW_SECONDS`` no longer counts, so that a file that decodes for a minute holds up
    nobody; of such there are ``LENT_AT_MOST``.
    """

    def __init__(self) -> None:
        self._waiting: deque[tuple[str, Callable[[], None]]] = deque()
        self._lock = threading.Lock()
        self._running = 0
        self._lent = 0

    def add(self, name: str, work: Callable[[], None]) -> None:
        """Run it as soon as there is room."""
        with self._lock:
            self._waiting.append((name, work))
        self._go_on()

    def remove(self, name: str) -> bool:
        """Take one out that has not begun; False when it has."""
        with self._lock:
            for entry in self._waiting:
                if entry[0] == name:
                    self._waiting.remove(entry)
                    return True
        return False

    def clear(self) -> None:
        """Begin nothing more."""
        with self._lock:
            self._waiting.clear()

    def _go_on(self) -> None:
        with self._lock:
            while self._waiting and self._running - self._lent < AT_ONCE:
                self._running += 1
                _, work = self._waiting.popleft()
                threading.Thread(target=self._run, args=(work,), daemon=True).start()

    def _run(self, work: Callable[[], None]) -> None:
        state = {"ended": False, "lent": False}

        def lend() -> None:
            with self._lock:
                if state["ended"] or self._lent >= LENT_AT_MOST:
                    return
                state["lent"] = True
                self._lent += 1
            self._go_on()

        timer = threading.Timer(SLOW_SECONDS, lend)
        timer.daemon = True
        timer.start()
        try:
            work()
        finally:
            timer.cancel()
            with self._lock:
                state["ended"] = True
                self._running -= 1
                self._lent -= state["lent"]
            self._go_on()
