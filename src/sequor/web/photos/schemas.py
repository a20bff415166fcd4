"""Messages about photos."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import fields
from datetime import datetime
from typing import Annotated, Any

from pydantic import Field, StringConstraints

from sequor.imaging.originals.raw import Raw
from sequor.operations import sheet
from sequor.recipe.model.base import Sha256
from sequor.store.models import Photo
from sequor.web.problems import Problem
from sequor.web.wire import Name, Wire
from sequor.wording.found import confidence_words
from sequor.wording.numbers import degrees

Filter = Annotated[str, StringConstraints(max_length=200)] | None
Number = Annotated[int, Field(ge=0, lt=2**31)] | None


class SessionOut(Wire):
    """What a page needs before it may change anything; ``painter``: whether an outside painter is set up;
    ``exports``: whether a folder for exports was named; ``network``: whether people sign in, ``account``: who
    has, null for nobody."""

    token: str
    painter: bool
    exports: bool
    network: bool
    account: str | None


class SheetIn(Wire):
    """Which photos of the contact sheet are asked for, and in which order; as ``sheet.Wanted``."""

    stand: sheet.Stand | None = None
    state: Filter = None
    sureness: sheet.Sureness | None = None
    camera: Filter = None
    lens: Filter = None
    ratio: Filter = None
    brought: Number = None
    group: Number = None
    exported: bool | None = None
    find: Filter = None
    by: sheet.Order = "came"
    down: bool = False
    after: None = None

    @property
    def wanted(self) -> sheet.Wanted:
        """Which photos."""
        names = [one.name for one in fields(sheet.Wanted)]
        return sheet.Wanted(**{name: getattr(self, name) for name in names})

    @property
    def sorting(self) -> sheet.Sorting:
        """In which order."""
        return sheet.Sorting(self.by, self.down)


def key_words(key: Sequence[Any]) -> str:
    """A place in an order, for asking for what lies behind it."""
    return json.dumps([one.isoformat() if isinstance(one, datetime) else one for one in key])


FIRST_OF_KEY: dict[sheet.Order, type] = {"title": str, "camera": str, "taken": datetime, "confidence": float}
"""What stands before the photo's number in a place of an order."""


def after_key(words: str | None, sorting: sheet.Sorting) -> list[Any] | None:
    """The place that words name; None for none. Raises Problem."""
    if words is None:
        return None
    try:
        *first, number = json.loads(words)
        if sorting.by == "taken":
            first = [datetime.fromisoformat(one) for one in first]
        kind = FIRST_OF_KEY.get(sorting.by)
        told = [kind is not None and isinstance(one, (kind, int) if kind is float else kind) for one in first]
        if type(number) is not int or told != ([True] if kind is not None else []):
            raise ValueError
    except (ValueError, TypeError):
        raise Problem(422, "Not understood", "The page to go on from is not one of this list") from None
    return [*first, number]


class NumbersOut(Wire):
    """Photos by their numbers."""

    photos: list[int]


class KnownIn(Wire):
    """Hashes of files."""

    sha256s: list[Sha256] = Field(max_length=1000)


class KnownOut(Wire):
    """Those of them that are on the contact sheet."""

    known: list[str]


class FilterOut(Wire):
    """Something that photos can be chosen by, and how many there are: ``value`` is what is asked for."""

    value: str
    name: str
    count: int


class FiltersOut(Wire):
    """What the photos can be chosen by."""

    state: list[FilterOut]
    camera: list[FilterOut]
    lens: list[FilterOut]
    ratio: list[FilterOut]
    brought: list[FilterOut]
    group: list[FilterOut]

    @classmethod
    def of(cls, found: sheet.Choices) -> FiltersOut:
        """The message for what was found."""

        def plain(rows: list[tuple[str, int]]) -> list[FilterOut]:
            return [FilterOut(value=value, name=value, count=count) for value, count in rows]

        def numbered(rows: list[tuple[int, str, int]]) -> list[FilterOut]:
            return [FilterOut(value=str(number), name=name, count=count) for number, name, count in rows]

        return cls(
            state=plain(found.states),
            camera=plain(found.cameras),
            lens=plain(found.lenses),
            ratio=plain(found.ratios),
            brought=numbered(found.imports),
            group=numbered(found.groups),
        )


class PhotoOut(Wire):
    """A photo on the contact sheet; ``version`` is what a change must name in If-Match. When its state cannot
    be read, ``revision`` is the newest that can, or null. ``as_shot``: temperature in kelvin and tint of the
    light that a raw photo's camera made white. ``proposal``: what was found on a photo that is not measured,
    in short, and ``sure`` how sure it is, in a word; ``exported``: whether it was written as it is now."""

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
    lens: str | None
    proposal: str | None
    sure: str | None
    aside: bool
    exported: bool

    @classmethod
    def of(cls, photo: Photo) -> PhotoOut:
        """The message for a photo, from its row alone."""
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
            camera=photo.camera or None,
            raw=photo.format == Raw.name,
            as_shot=photo.facts.get("as_shot"),
            keeps_place=bool(photo.facts.get("has_place")),
            imported_at=photo.imported_at,
            versions=photo.version_names,
            lens=photo.lens or None,
            **_proposal(photo),
            aside=photo.aside,
            exported=photo.exported_id is not None and photo.exported_id == photo.revision_id,
        )


def _proposal(photo: Photo) -> dict[str, str | None]:
    """What was found on a photo, as long as nobody has measured it."""
    if not sheet.is_pending(photo) or photo.confidence < 0:
        return {"proposal": None, "sure": None}
    sure = confidence_words(photo.confidence)
    told = "nothing found" if photo.found_roll is None else f"{degrees(abs(photo.found_roll), 1)} {sure}"
    return {"proposal": told, "sure": sure}


class PhotoListOut(Wire):
    """Photos of the contact sheet in the order that was asked for; ``next``: what to ask for those behind
    them, null at the end."""

    photos: list[PhotoOut]
    next: str | None


class SheetOut(Wire):
    """All photos together: how they stand, in words, and how many there are, how many are ``asked`` for, how
    many have a sure proposal, want a pair of eyes, are corrected, or were left as taken."""

    words: str
    total: int
    asked: int
    stands: dict[sheet.Stand, int]


class PlaceOut(Wire):
    """Where a photo lies on the contact sheet: the photos beside it, null at the ends; its place, from 1."""

    before: int | None
    after: int | None
    place: int
    total: int


class TitleIn(Wire):
    """A new title."""

    title: Name = Field(max_length=200)
