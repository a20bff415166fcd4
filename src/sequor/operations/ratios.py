"""Ratios that people keep under a name, for all photos."""

from __future__ import annotations

import contextlib

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError

from sequor.store.database import Store
from sequor.store.models import OwnRatio

MOST_RATIOS = 24


class TooManyRatiosError(ValueError):
    """There is no room for one more."""


class RatioUnknownError(LookupError):
    """There is no such ratio."""


def list_ratios(store: Store) -> list[OwnRatio]:
    """All that were kept, in the order they came."""
    with store.transaction() as session:
        return list(session.scalars(select(OwnRatio).order_by(OwnRatio.id)))


def keep_ratio(store: Store, name: str, ratio: str) -> OwnRatio:
    """Keep a ratio as the recipe writes it; one of the same name is replaced. Raises TooManyRatiosError."""
    while True:
        with contextlib.suppress(IntegrityError), store.transaction() as session:
            # Locked from the first to the last: two at once are not one too many.
            known = list(session.scalars(select(OwnRatio).with_for_update()))
            same = next((one for one in known if one.name == name), None)
            if same is not None:
                same.ratio = ratio
                return same
            if len(known) >= MOST_RATIOS:
                raise TooManyRatiosError(f"{MOST_RATIOS} own ratios are kept already; remove one first")
            kept = OwnRatio(name=name, ratio=ratio)
            session.add(kept)
            session.flush()
            return kept


def remove_ratio(store: Store, ratio_id: int) -> None:
    """Forget one. Photos that have it stay as they are. Raises RatioUnknownError."""
    with store.transaction() as session:
        kept = session.get(OwnRatio, ratio_id)
        if kept is None:
            raise RatioUnknownError("This saved ratio no longer exists")
        session.delete(kept)
