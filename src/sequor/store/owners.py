"""Whose rows a session sees and makes: those of the account that is acted for, in the present thread."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

from sqlalchemy import event
from sqlalchemy.orm import Mapped, ORMExecuteState, Session, mapped_column, with_loader_criteria

NOBODY = 0
"""Whose everything is while there are no accounts."""

_ACTING: ContextVar[int | None] = ContextVar("acting", default=None)


def acting() -> int | None:
    """The account that is acted for; None: for all, as whoever keeps the installation does."""
    return _ACTING.get()


def owner() -> int:
    """Whose the rows are that are made now."""
    return acting() or NOBODY


@contextmanager
def acting_for(account: int | None) -> Iterator[None]:
    """Act for an account meanwhile."""
    before = _ACTING.set(account)
    try:
        yield
    finally:
        _ACTING.reset(before)


def act_for(account: int | None) -> None:
    """Act for an account from now on, in this thread."""
    _ACTING.set(account)


class Owned:
    """Rows that belong to an account: whoever is acted for makes them, and sees, changes and removes no
    others."""

    account_id: Mapped[int] = mapped_column(default=owner)


class OwnSession(Session):
    """A session of which every query is about the rows of the account that is acted for."""


@event.listens_for(OwnSession, "do_orm_execute")
def _only_own(state: ORMExecuteState) -> None:
    account = acting()
    if account is None or not (state.is_select or state.is_update or state.is_delete):
        return

    def own(kind: Any) -> Any:
        return kind.account_id == account

    state.statement = state.statement.options(with_loader_criteria(Owned, own, include_aliases=True))
