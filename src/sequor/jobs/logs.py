"""What the programs note of themselves: a line of JSON each, with the request or the job that it belongs to.

No titles, file names or places: a fault is noted by its kind and by where in the program it was; what it says
of a picture only at the level DEBUG.
"""

from __future__ import annotations

import contextlib
import json
import logging
import traceback
from collections.abc import Iterator
from contextvars import ContextVar
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

REQUEST: ContextVar[str | None] = ContextVar("request", default=None)
JOB: ContextVar[str | None] = ContextVar("job", default=None)
LOG = "sequor.log"
"""Under this name the start command and the web servers note in the data folder."""


class Lines(logging.Formatter):
    """A record as one line of JSON."""

    def format(self, record: logging.LogRecord) -> str:
        """The line."""
        noted: dict[str, Any] = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname,
            "from": record.name,
            "words": record.getMessage(),
        }
        for name, value in (("request", REQUEST.get()), ("job", JOB.get())):
            if value is not None:
                noted[name] = value
        if record.exc_info and record.exc_info[0] is not None:
            kind, fault, trace = record.exc_info
            noted["fault"] = kind.__name__
            noted["where"] = [
                f"{Path(frame.filename).name}:{frame.lineno} {frame.name}"
                for frame in traceback.extract_tb(trace)
            ]
            if logging.getLogger().isEnabledFor(logging.DEBUG):
                noted["says"] = str(fault)
        return json.dumps(noted, ensure_ascii=False)


def note_in(handler: logging.Handler, level: int) -> None:
    """Let all that is noted from ``level`` on be written by a handler."""
    handler.setFormatter(Lines())
    logging.basicConfig(handlers=[handler], level=level, force=True)


@contextlib.contextmanager
def belonging_to(job: str) -> Iterator[None]:
    """What is noted meanwhile belongs to a job."""
    token = JOB.set(job)
    try:
        yield
    finally:
        JOB.reset(token)
