"""Messages about photos."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from sequor.imaging.originals.raw import Raw
from sequor.store.models import Photo
from sequor.web.wire import Name, Wire


class SessionOut(Wire):
    """What a page needs before it may change anything; ``painter``: whether an outside painter is set up."""

    token: str
    painter: bool


class PhotoOut(Wire):
    """A photo on the contact sheet; ``version`` is what a change must name in If-Match. When its state cannot
    be read, ``revision`` is the newest that can, or null. ``as_shot``: temperature in kelvin and tint of the
    light that a raw photo's camera made white."""

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
    raw: bool
    as_shot: tuple[float, float] | None
    imported_at: datetime
    versions: list[str]
    confidence: float | None

    @classmethod
    def of(cls, photo: Photo) -> PhotoOut:
        """The message for a photo, from its row alone."""
        maker = " ".join(filter(None, map(photo.facts.get, ("make", "model"))))
        readable = photo.readable_id is None
        return cls(
            id=photo.id,
            title=photo.title,
            file_name=photo.file_name,
            width=photo.shown_width or photo.width,
            height=photo.shown_height or photo.height,
            ratio=photo.ratio,
            state=photo.state or "",
            readable=readable,
            revision=photo.revision_id if readable else photo.readable_id or None,
            version=photo.changes,
            camera=maker or None,
            raw=photo.format == Raw.name,
            as_shot=photo.facts.get("as_shot"),
            keeps_place=bool(photo.facts.get("has_place")),
            imported_at=photo.imported_at,
            versions=photo.version_names,
            confidence=photo.confidence,
        )


class PhotoListOut(Wire):
    """Photos of the contact sheet, in the order they came; ``next``: what to ask for those behind them, null
    at the end."""

    photos: list[PhotoOut]
    next: int | None


class SheetOut(Wire):
    """All photos together: how they stand, in words, and how many there are."""

    words: str
    total: int


class PlaceOut(Wire):
    """Where a photo lies on the contact sheet: the photos beside it, null at the ends; its place, from 1."""

    before: int | None
    after: int | None
    place: int
    total: int


class TitleIn(Wire):
    """A new title."""

    title: Name = Field(max_length=200)
