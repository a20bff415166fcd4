"""Taking the proposals on many photos: only where they are as sure as is asked for."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from sqlalchemy import func, select

from sequor.actions.base import no_takes
from sequor.actions.proposal import TakeProposal
from sequor.advice.made import Made
from sequor.operations.batches import LeftError, change
from sequor.operations.looking import SURE_COLUMNS, Look, parts_of
from sequor.operations.looking_ahead import look_ahead
from sequor.operations.photos import PhotoNow
from sequor.operations.revising import Kept, settled
from sequor.operations.sheet import ON_SHEET, PENDING, how_many, is_pending
from sequor.recipe.model import Recipe
from sequor.store.chunks import chunks
from sequor.store.database import Store
from sequor.store.models import Photo
from sequor.wording.found import EXTENT_NAMES, Extent

Reach = Literal["suggested"] | Extent
"""How far proposals are taken: as is suggested for each, or all as far as this."""


@dataclass(frozen=True)
class Counted:
    """Of some photos: on how many the proposal would be taken, how many want a pair of eyes, how many are
    not looked at yet, and how many are measured or were put aside."""

    sure: int
    eyes: int
    waiting: int
    others: int


def count(store: Store, photo_ids: Sequence[int], reach: Reach, least: float) -> Counted:
    """What taking the proposals of these photos would do."""
    column = Photo.confidence if reach == "suggested" else getattr(Photo, SURE_COLUMNS[reach])
    sure, looked = column >= least, Photo.confidence >= 0
    totals = [0, 0, 0, 0]
    with store.transaction() as session:
        for some in chunks(photo_ids):
            query = select(
                func.count(),
                how_many(PENDING),
                how_many(PENDING & sure),
                how_many(PENDING & looked),
            ).where(ON_SHEET, Photo.id.in_(some))
            for index, value in enumerate(session.execute(query).one()):
                totals[index] += int(value)
    total, pending, taken, seen = totals
    return Counted(taken, seen - taken, pending - seen, total - pending)


def proposal_of(recipe: Recipe, seen: Look, extent: Extent) -> Made:
    """What taking a look's lines makes of a recipe, as far as an extent."""
    lines = parts_of(seen.references, extent == "square-on")
    return TakeProposal(do="proposal", extent=extent, lines=lines).apply(recipe, no_takes)


def take(store: Store, photo_id: int, batch: int, number: int, reach: Reach, least: float) -> dict[str, Any]:
    """Take the proposal on one photo of a batch. Raises what looking at it does, ChangedMeanwhileError."""

    def after(now: PhotoNow) -> tuple[Kept, str | None]:
        if not is_pending(now.photo):
            raise LeftError("It is measured already, or was left as taken.")
        seen = look_ahead(store, photo_id)
        extent = seen.suggested if reach == "suggested" else reach
        if extent is None or seen.cannot_tell is not None:
            raise LeftError(seen.cannot_tell or "Nothing sure was found.")
        if seen.sureness(extent) < 0:
            raise LeftError(f"Its lines do not tell enough for “{EXTENT_NAMES[extent]}”.")
        if seen.sureness(extent) < least:
            raise LeftError("Its proposal is less sure than was asked for.")
        made = proposal_of(now.recipe, seen, extent)
        return (settled(store, photo_id, now.recipe, made.recipe), made.action), None

    return change(store, batch, number, photo_id, after)
