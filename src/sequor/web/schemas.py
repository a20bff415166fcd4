"""What goes over the wire; from these the OpenAPI document and the TypeScript types are made."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import Field

from sequor.jobs.jobs import Begun
from sequor.operations.revising import PhotoNow
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.model import Recipe
from sequor.recipe.model.base import Text
from sequor.recipe.model.export import ExportPart
from sequor.recipe.model.lens import LensPart
from sequor.store.models import WorkState
from sequor.web.evaluation_schemas import EvaluateOut
from sequor.web.wire import Name, Wire
from sequor.wording import words
from sequor.wording.frame import frame_ratio_words


class SessionOut(Wire):
    """What a page needs before it may change anything; ``painter``: whether an outside painter is set up."""

    token: str
    painter: bool


class PhotoOut(Wire):
    """A photo on the contact sheet; ``version`` is what a change must name in If-Match. When its state cannot
    be read, ``revision`` is the newest that can, or null."""

    id: int
    title: str
    file_name: str
    width: int
    height: int
    ratio: str
    state: str
    readable: bool
    revision: int | None
    version: int
    camera: str | None
    keeps_place: bool
    imported_at: datetime
    versions: list[str]

    @classmethod
    def of(cls, now: PhotoNow) -> PhotoOut:
        """The message for a photo."""
        photo, maker = now.photo, " ".join(filter(None, map(now.photo.facts.get, ("make", "model"))))
        seen = now if now.is_readable else now.before
        size = seen.recipe.photo if seen else None
        return cls(
            id=photo.id,
            title=photo.title,
            file_name=photo.file_name,
            width=size.width if size else photo.width,
            height=size.height if size else photo.height,
            ratio=frame_ratio_words(seen.recipe) if seen else "",
            state=now.revision.state if seen is now else words.UNREADABLE,
            readable=seen is now,
            revision=seen.revision.id if seen else None,
            version=photo.changes,
            camera=maker or None,
            keeps_place=bool(photo.facts.get("has_place")),
            imported_at=photo.imported_at,
            versions=[one.name for one in photo.versions if one.removed_at is None],
        )


class PhotoListOut(Wire):
    """All photos on the contact sheet."""

    photos: list[PhotoOut]


class TitleIn(Wire):
    """A new title."""

    title: Name = Field(max_length=200)


class TurnIn(Wire):
    """A quarter turn."""

    direction: Literal["left", "right"]


class ReviseIn(Wire):
    """A completed action: the recipe after it, the action in words for the log, and the references whose real
    edges are to be found first."""

    recipe: Recipe
    action: Name = Field(max_length=200)
    snap: list[Text] = Field(default_factory=list, max_length=100)


class EvaluateIn(Wire):
    """A recipe to look at without storing it; ``before`` carries a hand-made frame along. ``choices`` asks
    for offers and ways as well, which takes several evaluations."""

    recipe: Recipe
    before: Recipe | None = None
    choices: bool = False


class BenchOut(Wire):
    """A photo with its current recipe, and all that is true under it (without offers and ways)."""

    photo: PhotoOut
    recipe: Recipe
    can_undo: bool
    can_redo: bool
    action: str
    evaluation: EvaluateOut

    @classmethod
    def of(cls, now: PhotoNow) -> BenchOut:
        """The message for a photo on the bench."""
        return cls(
            photo=PhotoOut.of(now),
            recipe=now.recipe,
            can_undo=now.can_undo,
            can_redo=now.can_redo,
            action=now.revision.action,
            evaluation=EvaluateOut.of(evaluate(now.recipe), choices=False),
        )


class ProfilesOut(Wire):
    """Lens profiles as parts of a recipe; ``sure``: the first is the photo's own; ``reason``: why none is."""

    profiles: list[LensPart]
    sure: bool
    reason: str | None


class StillLine(Wire):
    """A line that stands still on the screen: its ends in corrected pixels."""

    way: Literal["level", "upright"]
    ends: tuple[tuple[float, float], tuple[float, float]]


class UnderIn(Wire):
    """Still lines over a recipe."""

    recipe: Recipe
    lines: list[StillLine] = Field(max_length=20)


class UnderOut(Wire):
    """What the picture does under each line, in words."""

    words: list[str]


class RevisionOut(Wire):
    """One completed action."""

    id: int
    action: str
    at: datetime
    current: bool


class RevisionsOut(Wire):
    """Everything that was done to a photo, the import first."""

    revisions: list[RevisionOut]


class RevisionSeenOut(Wire):
    """A photo as it was after an action."""

    recipe: Recipe
    evaluation: EvaluateOut


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


class ExportIn(Wire):
    """An export: how the current revision is written.

    With ``versions`` (their ids) these are written into one file, as each of them says; ``now``: the current
    revision too.
    """

    export: ExportPart
    versions: list[int] = Field(default_factory=list, max_length=50)
    now: bool = True
