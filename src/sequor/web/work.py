"""Messages about work in the background."""

from __future__ import annotations

from sequor.store.models import Job, WorkState
from sequor.web.wire import Wire
from sequor.wording.sentence import sentence


class JobOut(Wire):
    """Long work: how far it is, and what came of it. ``code`` and ``error``: why it failed; ``notices``: what
    was left out; ``filled``: the share of an export that is new. Of an import ``look``: there is a first look
    at it; ``steps_of``: it was exported from the photo of this title, and nothing was added yet."""

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
    look: bool
    steps_of: str | None

    @classmethod
    def of(cls, job: Job, look: bool = False) -> JobOut:
        """The message for a job."""
        result = job.result or {}
        return cls(
            id=job.id,
            label=job.label,
            state=job.state,
            progress=job.progress,
            words=job.words,
            code=job.code,
            error=None if job.error is None else sentence(job.error),
            notices=job.notices,
            photo_id=result.get("photo_id"),
            known=result.get("known", False),
            filled=result.get("filled", 0.0),
            look=look,
            steps_of=result.get("title"),
        )
