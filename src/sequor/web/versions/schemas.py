"""Messages about versions."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from sequor.pipeline.evaluated import evaluate
from sequor.recipe.model import Recipe
from sequor.store.models import Version
from sequor.web.wire import Name, Wire
from sequor.wording.frame import frame_ratio_words


class NameIn(Wire):
    """A name for a version."""

    name: Name = Field(max_length=80)


class VersionOut(Wire):
    """A named state: its revision, and what its frame is."""

    id: int
    name: str
    revision: int
    at: datetime
    ratio: str
    width: int
    height: int

    @classmethod
    def of(cls, version: Version, recipe: Recipe) -> VersionOut:
        """The message for a version."""
        frame = evaluate(recipe).frame
        return cls(
            id=version.id,
            name=version.name,
            revision=version.revision_id,
            at=version.created_at,
            ratio=frame_ratio_words(recipe),
            width=round(frame.width),
            height=round(frame.height),
        )


class VersionsOut(Wire):
    """The versions of a photo, in the order they were made; ``version`` is what its next change must name."""

    version: int
    versions: list[VersionOut]
