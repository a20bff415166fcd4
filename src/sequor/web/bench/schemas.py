"""Messages of the bench."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import Field, RootModel

from sequor.actions.registry import AnyAction
from sequor.advice.views import ViewRow
from sequor.operations.photos import PhotoNow
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.model import Recipe
from sequor.recipe.model.export import ExportPart
from sequor.recipe.model.lens import LensPart
from sequor.recipe.model.view import ViewKind
from sequor.recipe.reset import Step
from sequor.web.bench.evaluation import EvaluateOut
from sequor.web.photos.schemas import PhotoOut
from sequor.web.wire import Name, Wire
from sequor.wording.view import brief_cost_words


class TurnIn(Wire):
    """A quarter turn."""

    direction: Literal["left", "right"]


class ResetIn(Wire):
    """What is to be as when the photo was imported: one step, or all of them."""

    part: Step | Literal["all"]


class ActionIn(RootModel[AnyAction]):
    """An action, told by its name ``do``."""


class RecipeIn(Wire):
    """A recipe as a whole, and in words for the log what it comes from."""

    recipe: Recipe
    action: Name = Field(max_length=200)


class EvaluateIn(Wire):
    """A recipe to look at without storing it, after an ``action`` if one is given. ``choices`` asks for
    offers and ways as well, which takes several evaluations, ``after`` for what the action makes of the
    recipe."""

    recipe: Recipe
    action: AnyAction | None = None
    choices: bool = False
    after: bool = False


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
            photo=PhotoOut.of(now.photo),
            recipe=now.recipe,
            can_undo=now.can_undo,
            can_redo=now.can_redo,
            action=now.revision.action,
            evaluation=EvaluateOut.of(evaluate(now.recipe), choices=False),
        )


class RevisedOut(BenchOut):
    """A photo after an action, and what else is to be told; ``done`` false: it cannot be done as asked, and
    nothing was changed."""

    words: str
    done: bool


class ViewsIn(Wire):
    """A recipe."""

    recipe: Recipe


class ViewRowOut(Wire):
    """One way to put a picture on paper, and what it costs in words; ``kept``: the share of the picture that
    is left; ``refused``: why it cannot be had."""

    kind: ViewKind
    chosen: bool
    words: str
    kept: float | None
    refused: str | None

    @classmethod
    def of(cls, row: ViewRow) -> ViewRowOut:
        """The message for a way."""
        return cls(
            kind=row.kind,
            chosen=row.chosen,
            words=brief_cost_words(row.drawn_out, row.bend),
            kept=row.kept,
            refused=row.refused,
        )


class ViewsOut(Wire):
    """Flat, round, round sideways only."""

    rows: list[ViewRowOut]


class ProfilesOut(Wire):
    """Lens profiles as parts of a recipe; ``sure``: the first is the photo's own; ``reason``: why none is."""

    profiles: list[LensPart]
    sure: bool
    reason: str | None


class StillLine(Wire):
    """A line that stands still on the screen: its ends in corrected pixels."""

    runs: Literal["level", "upright"]
    ends: tuple[tuple[float, float], tuple[float, float]]


class UnderIn(Wire):
    """Still lines over a recipe."""

    recipe: Recipe
    lines: list[StillLine] = Field(max_length=20)


class UnderOut(Wire):
    """What the picture does under each line, in words."""

    words: list[str]


class RevisionOut(Wire):
    """One completed action; ``number`` counts those of the photo, its import is 1."""

    id: int
    number: int
    action: str
    at: datetime
    current: bool


class RevisionsOut(Wire):
    """What was done to a photo, the newest first; ``next``: what to ask for those before, null at the end."""

    revisions: list[RevisionOut]
    next: int | None


class RevisionSeenOut(Wire):
    """A photo as it was after an action."""

    recipe: Recipe
    evaluation: EvaluateOut


class ExportIn(Wire):
    """An export: how the current revision is written.

    With ``versions`` (their ids) these are written into one file, as each of them says; ``now``: the current
    revision too.
    """

    export: ExportPart
    versions: list[int] = Field(default_factory=list, max_length=50)
    now: bool = True


class NamesOut(Wire):
    """What files would be called."""

    names: list[str]
