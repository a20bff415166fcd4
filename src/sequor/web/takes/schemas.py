"""What goes over the wire about edges and takes."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from sequor.advice.edges import EdgeChoice
from sequor.pipeline.evaluated import Evaluated
from sequor.recipe.model import Recipe
from sequor.recipe.model.base import Text
from sequor.recipe.model.edges import Mode, Seed
from sequor.store.models import Take, WorkState
from sequor.web.wire import Wire
from sequor.wording.sentence import sentence

HEAT_CELLS = 60


class EdgesIn(Wire):
    """A recipe whose ways with the corners are to be compared."""

    recipe: Recipe


class EdgeChoiceOut(Wire):
    """One way with the corners, how far the frame then reaches, and what that costs; ``loss``: what it
    cuts, in words, empty for nothing that matters."""

    mode: Mode
    extent: Literal["as it is", "same size", "nothing cut"] | None
    stretch: float | None
    refused: str | None
    kept: float
    empty: float
    width: int
    height: int
    chosen: bool
    loss: str

    @classmethod
    def of(cls, choice: EdgeChoice) -> EdgeChoiceOut:
        """The message for a way."""
        found = cls.model_validate(choice)
        found.refused = choice.refused and sentence(choice.refused)
        return found


class HeatOut(Wire):
    """How much a reshaped picture is stretched, in per cent: a regular grid, row by row, over the rectangle
    [x, y, width, height] in corrected pixels."""

    area: tuple[float, float, float, float]
    columns: int
    rows: int
    percents: list[int]

    @classmethod
    def of(cls, evaluation: Evaluated) -> HeatOut | None:
        """The message for an evaluation; None when nothing is reshaped."""
        if evaluation.reshaped is None:
            return None
        stretch = evaluation.reshaped.stretch
        by = max(1, -(-max(stretch.shape) // HEAT_CELLS))
        padded = np.pad(stretch, [(0, -side % by) for side in stretch.shape], constant_values=1.0)
        rows, columns = (side // by for side in padded.shape)
        # The greatest of a cell, so that the greatest of all is seen.
        grid = padded.reshape(rows, by, columns, by).max(axis=(1, 3))
        area = evaluation.reshaped.warp.lattice.area
        whole = (by * columns / stretch.shape[1], by * rows / stretch.shape[0])
        return cls(
            area=(area.x, area.y, area.width * whole[0], area.height * whole[1]),
            columns=columns,
            rows=rows,
            percents=[round(100 * float(value - 1)) for value in grid.ravel()],
        )


class EdgesOut(Wire):
    """All ways. ``suits``: the one that suits the picture, ``words`` why. Of a reshaped picture
    ``hurts_from``: the angle in degrees from which on a part would be stretched too much; and ``heat``."""

    choices: list[EdgeChoiceOut]
    suits: Mode | None
    words: str
    hurts_from: float | None
    heat: HeatOut | None


class AskTakesIn(Wire):
    """Takes that are wanted, of the corners or of a touch-up."""

    touch_up: Text = Field(default="", max_length=20)
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
    state: WorkState
    progress: float
    words: str
    parts: list[TakePartOut]
    rough: int

    @classmethod
    def of(cls, take: Take) -> TakeOut:
        """The message for a take; why it failed is a sentence."""
        found = cls.model_validate(take)
        if take.state == "failed":
            found.words = sentence(take.words)
        return found


class TakesOut(Wire):
    """The takes of a photo's current frame; ``made_for``: the hash of what they depend on; ``notice``: why
    they have to wait."""

    made_for: str
    takes: list[TakeOut]
    notice: str | None
