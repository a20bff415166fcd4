"""Messages about photos that want a pair of eyes."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from sequor.operations.photos import PhotoNow
from sequor.operations.reviewing import Reach, Review
from sequor.web.photos.schemas import PhotoOut
from sequor.web.wire import Wire
from sequor.wording.found import EXTENT_NAMES, Extent
from sequor.wording.frame import percent


class ReasonOut(Wire):
    """Why a photo is not sure; ``figure`` is empty where there is none."""

    words: str
    figure: str


class ReviewLineOut(Wire):
    """A line that was found, [x0, y0, x1, y1] in shares of the picture that is shown."""

    kind: str
    ends: tuple[float, float, float, float]


class ReachOut(Wire):
    """What an extent, null: as it is, would make of a photo, and where its picture is."""

    extent: Extent | None
    name: str
    words: str
    kept: float
    picture: str
    lines: list[ReviewLineOut]

    @classmethod
    def of(cls, reach: Reach, now: PhotoNow) -> ReachOut:
        """The message for an extent."""
        state = f"{now.revision.id}-{reach.extent or 'plain'}"
        return cls(
            extent=reach.extent,
            name="As it is" if reach.extent is None else EXTENT_NAMES[reach.extent],
            words=f"keeps {percent(reach.kept)}",
            kept=reach.kept,
            picture=f"/api/photos/{now.photo.id}/review/{state}.jpg",
            lines=[ReviewLineOut(kind=kind, ends=(*ends[0], *ends[1])) for kind, ends in reach.lines],
        )


class ReviewOut(Wire):
    """A photo that wants a pair of eyes. ``suggested``: the extent that should be taken, null where nothing
    is."""

    photo: PhotoOut
    headline: str
    reasons: list[ReasonOut]
    suggested: Extent | None
    extents: list[ReachOut]

    @classmethod
    def of(cls, now: PhotoNow, found: Review) -> ReviewOut:
        """The message for what was found."""
        return cls(
            photo=PhotoOut.of(now.photo),
            headline=found.headline,
            reasons=[ReasonOut.model_validate(one) for one in found.reasons],
            suggested=found.suggested,
            extents=[ReachOut.of(one, now) for one in found.reaches],
        )


class DecideIn(Wire):
    """What is taken, null: nothing of it, and by how many degrees the picture is turned clockwise."""

    extent: Extent | None = None
    turn: Annotated[float, Field(ge=-45, le=45, allow_inf_nan=False)] = 0.0
