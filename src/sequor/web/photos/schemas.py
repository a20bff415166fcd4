"""Messages about photos."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from sequor.operations.revising import PhotoNow
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
