"""Messages about work in the background."""

from __future__ import annotations

from sequor.jobs.jobs import Begun
from sequor.store.models import WorkState
from sequor.web.wire import Wire


class JobOut(Wire):
    """Long work: how far it is, and what came of it. ``code`` and ``error``: why it failed; ``notices``: what
    was left out; ``filled``: the share of an export that is new."""

    id: str
    label: str
    state: WorkState
    progress: float
    words: str
    code: str | None
    error: str | None
    notices: list[str]
    photo_id: int | None
    known: bool
    filled: float

    @classmethod
    def of(cls, job: Begun) -> JobOut:
        """The message for a job."""
        row, result = job.row, job.row.result or {}
        return cls(
            id=row.id,
            label=row.label,
            state=row.state,
            progress=job.progress,
            words=job.words,
            code=row.code,
            error=row.error,
            notices=row.notices,
            photo_id=result.get("photo_id"),
            known=result.get("known", False),
            filled=result.get("filled", 0.0),
        )
