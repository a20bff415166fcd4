"""Messages about what is done to many photos at once."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import Field, StringConstraints

from sequor.jobs.batches import Standing
from sequor.operations.carrying import Part
from sequor.operations.proposals import Reach
from sequor.operations.series import What
from sequor.recipe.model.base import Share
from sequor.recipe.model.export import ExportPart
from sequor.store.models import Job
from sequor.web.wire import Name, Wire
from sequor.wording.sentence import sentence

MOST_PHOTOS = 500_000

Photos = Annotated[list[Annotated[int, Field(ge=1, lt=2**31)]], Field(min_length=1, max_length=MOST_PHOTOS)]


class PhotosIn(Wire):
    """Photos by their numbers."""

    photos: Photos


class ImportIn(Wire):
    """What a stack of files is called."""

    label: Name = Field(max_length=200)


class TakeIn(PhotosIn):
    """How far the proposals are to be taken, and how sure they have to be."""

    reach: Reach = "suggested"
    least: Share = 0.9


class CountedOut(Wire):
    """What taking the proposals would do: on how many photos it would be taken, how many want a pair of eyes,
    how many are not looked at yet, how many are measured or were put aside."""

    sure: int
    eyes: int
    waiting: int
    others: int


class CarryIn(PhotosIn):
    """What is carried over, and from which photo."""

    source: int = Field(ge=1, lt=2**31)
    parts: list[Part] = Field(min_length=1, max_length=8)


class SeriesIn(PhotosIn):
    """What photos are to share: how the camera was held, or its lens."""

    what: What = "attitude"


class SeriesOut(Wire):
    """What photos tell together, in words. ``told``: how many of them tell something; ``odd``: the one that
    does not belong; ``refused``: they cannot be solved together."""

    words: list[str]
    told: int
    odd: int | None
    refused: bool


class ExportManyIn(PhotosIn):
    """How many photos are written: the named versions too, into a folder or a ZIP file."""

    export: ExportPart
    versions: bool = False
    into_folder: bool = False


class TitlesIn(PhotosIn):
    """A pattern for titles: what may stand in braces is file, title, date and n."""

    pattern: Annotated[
        str,
        StringConstraints(
            min_length=1, max_length=200, pattern=r"^([^{}\x00-\x1f]|\{(file|title|date|n)\})+$"
        ),
    ]


class AsideIn(PhotosIn):
    """Whether photos are left as they were taken."""

    aside: bool


class GroupIn(Wire):
    """A group, and its first photos."""

    name: Name = Field(max_length=80)
    photos: list[Annotated[int, Field(ge=1, lt=2**31)]] = Field(default_factory=list, max_length=MOST_PHOTOS)


class GroupOut(Wire):
    """A group."""

    id: int
    name: str


class CountOut(Wire):
    """How many photos something was done to."""

    count: int


class ToldOut(Wire):
    """What is told of one photo of a batch."""

    photo_id: int
    name: str
    words: str
    failed: bool


class BatchOut(Wire):
    """How far a batch is. ``changed``: how many photos have a new revision by it; ``told``: what failed, and
    what was left as it is; ``file``: where all its files can be fetched together; ``undone``: how far taking
    it back is, null where that was not asked for."""

    id: int
    kind: str
    label: str
    created_at: datetime
    total: int
    done: int
    failed: int
    cancelled: int
    working: bool
    changed: int
    told: list[ToldOut]
    folder: str | None
    file: str | None
    undone: float | None

    @classmethod
    def of(cls, standing: Standing, undoing: Job | None) -> BatchOut:
        """The message for a batch."""
        batch, states = standing.batch, standing.states
        folder = batch.settings.get("folder")
        fetched = batch.kind == "export" and folder is None and states.get("done", 0) > 0
        return cls(
            id=batch.id,
            kind=batch.kind,
            label=batch.label,
            created_at=batch.created_at,
            total=standing.total,
            done=states.get("done", 0),
            failed=states.get("failed", 0),
            cancelled=states.get("cancelled", 0),
            working=standing.working,
            changed=standing.changed,
            told=[
                ToldOut(photo_id=one.photo_id, name=one.name, words=sentence(one.words), failed=one.failed)
                for one in standing.told
            ],
            folder=folder,
            file=f"/api/batches/{batch.id}/files.zip" if fetched else None,
            undone=1.0 if batch.undone_at else None if undoing is None else undoing.progress,
        )


class LastOut(Wire):
    """What can be taken back as a whole."""

    id: int
    label: str


class BatchesOut(Wire):
    """Batches that are not done yet, the newest first; ``last``: the newest that has changed photos and was
    not taken back, null for none."""

    batches: list[BatchOut]
    last: LastOut | None
