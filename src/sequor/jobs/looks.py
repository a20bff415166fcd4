"""Asking for looks at photos, a job each: what was looked at as it is now is not looked at again."""

from __future__ import annotations

import contextlib
from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import load_only

from sequor.operations.looking import METHOD
from sequor.operations.sheet import ON_SHEET, PENDING
from sequor.store.again import begun_again
from sequor.store.database import Store
from sequor.store.models import Photo

from .asking import Asked, WorkQueue, ask, hash_of, ring
from .background import BackgroundGoneError

MOST_AT_A_TIME = 2000


@begun_again
def ask_for_looks(store: Store, queue: WorkQueue, photos: Sequence[int] | None = None) -> int:
    """Put down that these photos are to be looked at, and ask for it; None: all that nobody has looked at
    yet. One at which a look has failed is left alone. How many there were. Raises SQLAlchemyError."""
    query = select(Photo).options(load_only(Photo.title, Photo.revision_id, Photo.account_id))
    query = query.where(ON_SHEET, PENDING, Photo.confidence < 0)
    if photos is not None:
        query = query.where(Photo.id.in_(photos))
    with store.transaction() as session:
        wanted = [looking(photo) for photo in session.scalars(query.limit(MOST_AT_A_TIME))]
        jobs = [job for job, new in ask(session, wanted, revive=False) if new]
    with contextlib.suppress(BackgroundGoneError):
        ring(queue, jobs)
    return len(jobs)


def looking(photo: Photo, anew: bool = False) -> Asked:
    """A look at a photo as it is now; ``anew``: also where that was done."""
    spec = {"photo_id": photo.id, "anew": anew}
    made_of = hash_of("look", METHOD, photo.id, photo.revision_id)
    return Asked("look", photo.title, spec, made_of, account=photo.account_id)
