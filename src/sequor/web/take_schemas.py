"""What goes over the wire about edges and takes."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sequor.recipe.edges import Mode
from sequor.recipe.model import Recipe, Seed
from sequor.store.models import TakeState

from .schemas import Wire


class EdgesIn(Wire):
    """A recipe whose ways with the corners are to be compared."""

    recipe: Recipe


class EdgeChoiceOut(Wire):
    """One way with the corners, how far the frame then reaches, what that costs, and the recipe after it."""

    mode: Mode
    extent: Literal["as it is", "same size", "nothing cut"] | None
    kept: float
    empty: float
    width: int
    height: int
    chosen: bool
    action: str
    recipe: Recipe


class EdgesOut(Wire):
    """All ways."""

    choices: list[EdgeChoiceOut]


class AskTakesIn(Wire):
    """Takes that are wanted."""

    seeds: list[Annotated[Seed, Field(ge=1)]] = Field(min_length=1, max_length=24)


class TakePartOut(Wire):
    """A part of a take: its box [x, y, width, height] in the frame's pixels, its patch once it is made."""

    part: str
    box: tuple[int, int, int, int]
    sha256: str | None = None


class TakeOut(Wire):
    """One take; ``rough``: by how much its first look is reduced, 0 = there is none (any more).

    Pictures of its parts show the box grown by four of their own pixels on each side.
    """

    id: int
    seed: int
    state: TakeState
    progress: float
    words: str
    parts: list[TakePartOut]
    rough: int


class TakesOut(Wire):
    """The takes of a photo's current frame; ``made_for``: the hash of what they depend on; ``notice``: why
    they have to wait."""

    made_for: str
    takes: list[TakeOut]
    notice: str | None
