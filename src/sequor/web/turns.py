"""Pictures are worked out a few at a time: what is asked beside them has its answer meanwhile."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable
from typing import ParamSpec, TypeVar

from flask import request

from sequor.web.problems import Problem

P = ParamSpec("P")
T = TypeVar("T")

# A page asks for many tiles at once: rendered a few at a time, the first is there long before the last.
_FEW = threading.Semaphore(max(2, os.cpu_count() or 1))


def in_turn(work: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
    """What a work makes of what was looked up for it, when its turn has come; not when nobody waits for it
    any more: a page that is left or zoomed asks for others. Raises Problem."""
    with _FEW:
        is_gone: Callable[[], bool] | None = request.environ.get("waitress.client_disconnected")
        if is_gone is not None and is_gone():
            raise Problem(408, "Not waited for", "Whoever asked for this picture has gone; ask again")
        return work(*args, **kwargs)
