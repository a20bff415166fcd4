"""The recipe, version 1: the pydantic models that its JSON Schema (draft 2020-12) is made from.

Unknown keys are refused with their name, except keys that begin with ``x-``. Every key but ``format``,
``version`` and ``photo`` may be left out. Once it is validated a recipe does not change.
"""

from __future__ import annotations

from typing import Any, Literal, Self

from pydantic import Field, field_validator, model_validator

from sequor.core.references.registry import kind_of
from sequor.recipe.model.base import USED_TWICE, Part, refuse_twice
from sequor.recipe.model.correction import CorrectionPart
from sequor.recipe.model.develop import DevelopPart
from sequor.recipe.model.edges import EdgesPart
from sequor.recipe.model.export import ExportPart
from sequor.recipe.model.frame import FramePart
from sequor.recipe.model.lens import LensPart
from sequor.recipe.model.photo import PhotoPart
from sequor.recipe.model.references import MOST_GROUPS, MOST_POINTS, ReferencePart
from sequor.recipe.model.view import BendPart, ViewPart

ROUNDING = 1e-6


class Recipe(Part):
    """All that is done to one photo."""

    format: Literal["sequor-recipe"]
    version: Literal[1]
    photo: PhotoPart
    develop: DevelopPart | None = None
    lens: LensPart = Field(default_factory=LensPart)
    references: list[ReferencePart] = Field(default_factory=list, max_length=500)
    correction: CorrectionPart = Field(default_factory=CorrectionPart)
    view: ViewPart = Field(default_factory=ViewPart)
    bend: BendPart = Field(default_factory=BendPart)
    frame: FramePart = Field(default_factory=FramePart)
    edges: EdgesPart = Field(default_factory=EdgesPart)
    export: ExportPart = Field(default_factory=ExportPart)

    @model_validator(mode="after")
    def _subject_on_photo(self) -> Self:
        if self.frame.subject is not None:
            x, y, *size = self.frame.subject
            width, height = size or (0.0, 0.0)
            # A quarter turn rounds: what touches the border stays inside.
            low = x + width <= self.photo.width + ROUNDING and y + height <= self.photo.height + ROUNDING
            if min(x, y) < -ROUNDING or not low:
                raise ValueError("the subject lies outside the photo; frame.subject is in photo pixels")
        return self

    @field_validator("references")
    @classmethod
    def _unique_ids(cls, value: list[ReferencePart]) -> list[ReferencePart]:
        if sum(len(reference.points) for reference in value) > MOST_POINTS:
            raise ValueError(f"the lines have more than {MOST_POINTS} points in all; take some of them away")
        if len({one.group for one in value if kind_of(one.kind).grouped}) > MOST_GROUPS:
            raise ValueError(f"there are more than {MOST_GROUPS} groups of receding lines; join some of them")
        refuse_twice([reference.id for reference in value], USED_TWICE)
        return value


def json_schema() -> dict[str, Any]:
    """The published JSON Schema (draft 2020-12) of the whole recipe."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Sequor recipe",
        **{key: value for key, value in Recipe.model_json_schema().items() if key != "title"},
    }
