"""Accounts: who may sign in, and how much each may keep and ask for."""

from __future__ import annotations

import secrets
from functools import cache
from threading import Lock
from typing import Any

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from sequor.operations.telling import UNFINISHED
from sequor.store.again import begun_again
from sequor.store.database import Store
from sequor.store.models import Account, Base, Job, Photo, Take
from sequor.store.owners import NOBODY, Owned, owner

SHORTEST, LONGEST = 12, 128
"""Characters of a password (OWASP ASVS 4.0.3, 2.1.1 and 2.1.2)."""
LONGEST_NAME = 80
MOST_BYTES, MOST_JOBS = 100_000_000_000, 20_000
"""What an account may keep and ask for where nothing else is said."""

# RFC 9106, section 4, second recommended option: three passes over 64 MiB.
_HASHER = PasswordHasher(time_cost=3, memory_cost=65536, parallelism=4)
_ONE_AT_A_TIME = Lock()
"""Many who try at once take no more memory than one, in each process that answers."""


class PasswordRefusedError(ValueError):
    """A password that cannot be taken, or is not the right one."""


class TooMuchWorkError(Exception):
    """More work than an account may ask for at a time."""


class NoRoomLeftError(Exception):
    """More bytes than an account may keep."""


@begun_again
def put_account(
    store: Store, name: str, password: str, most_bytes: int | None = None, most_jobs: int | None = None
) -> bool:
    """Add an account, or give one that is there a new password, and limits where they are named, which ends
    its sessions; whether it is new. What nobody owns becomes the first account's.

    Raises PasswordRefusedError, ValueError.
    """
    name = name.strip()
    if not name or len(name) > LONGEST_NAME or not name.isprintable():
        raise ValueError(f"a name has 1 to {LONGEST_NAME} characters that can be seen; choose another")
    told: dict[str, Any] = {"password": _hashed(password), "stamp": _stamp()}
    limits = {"most_bytes": most_bytes, "most_jobs": most_jobs}
    told |= {column: most for column, most in limits.items() if most is not None}
    with store.transaction() as session:
        names = {one.name: one for one in session.scalars(select(Account).with_for_update())}
        account = names.get(name)
        if account is None:
            account = Account(name=name, most_bytes=MOST_BYTES, most_jobs=MOST_JOBS)
            session.add(account)
        for column, value in told.items():
            setattr(account, column, value)
        session.flush()
        if not names:
            for mapper in Base.registry.mappers:
                if issubclass(mapper.class_, Owned):
                    its = update(mapper.class_).where(mapper.class_.account_id == NOBODY)
                    session.execute(its.values(account_id=account.id))
        return name not in names


def first_account(store: Store) -> int:
    """The account of whoever sits at the computer itself: the first, or nobody's while there is none."""
    with store.transaction() as session:
        return session.scalar(select(func.min(Account.id))) or NOBODY


def signed_in(store: Store, name: str, password: str) -> Account | None:
    """The account of this name and password; to find that there is none takes as long."""
    with store.transaction() as session:
        account = session.scalar(select(Account).where(Account.name == name.strip()))
    known = _verified(_none() if account is None else account.password, password)
    return account if known else None


def account_of(store: Store, number: int, stamp: str) -> Account | None:
    """The account of a session; None for one that was ended."""
    with store.transaction() as session:
        account = session.get(Account, number)
    return account if account is not None and secrets.compare_digest(account.stamp, stamp) else None


def change_password(store: Store, number: int, old: str, new: str) -> Account:
    """Give an account another password, which ends its sessions. Raises PasswordRefusedError."""
    with store.transaction() as session:
        account = session.get_one(Account, number)
    if not _verified(account.password, old):
        raise PasswordRefusedError("The present password is another one. Nothing was changed")
    hashed = _hashed(new)
    with store.transaction() as session:
        account = session.get_one(Account, number)
        account.password, account.stamp = hashed, _stamp()
        return account


def end_sessions(store: Store, number: int) -> None:
    """End all sessions of an account."""
    with store.transaction() as session:
        session.get_one(Account, number).stamp = _stamp()


def refuse_too_much(session: Session, jobs: int, size: int = 0) -> None:
    """Let the account that is acted for ask for no more jobs, and keep no more bytes, than it may; until the
    end of the transaction nobody else asks for it. Raises TooMuchWorkError, NoRoomLeftError."""
    whose = owner()
    account = None if whose == NOBODY else session.get(Account, whose, with_for_update=True)
    if account is None:
        return
    unfinished = Job.state.in_(UNFINISHED)
    takes = select(func.count()).select_from(Take).join(Photo, Photo.id == Take.photo_id)
    there = session.scalar(select(func.count()).select_from(Job).where(unfinished)) or 0
    there += session.scalar(takes.where(Take.state.in_(UNFINISHED))) or 0
    if there + jobs > account.most_jobs:
        raise TooMuchWorkError(
            f"{there:,} jobs of yours are not done yet, and {account.most_jobs:,} may be at a time. "
            "Nothing was begun; wait until some are done"
        )
    if size:
        coming = func.coalesce(func.sum(func.json_value(Job.spec, "$.bytes")), 0)
        kept = int(session.scalar(select(func.coalesce(func.sum(Photo.bytes), 0))) or 0)
        kept += int(session.scalar(select(coming).where(unfinished, Job.kind == "import")) or 0)
        if kept + size > account.most_bytes:
            raise NoRoomLeftError(
                f"Your photos take {kept / 1e9:.1f} of {account.most_bytes / 1e9:.1f} GB, too much for one "
                f"of {size / 1e6:.1f} MB. Nothing was added; ask whoever keeps this Sequor for more room"
            )


def _hashed(password: str) -> str:
    if not SHORTEST <= len(password) <= LONGEST:
        raise PasswordRefusedError(
            f"A password has {SHORTEST} to {LONGEST} characters; this one has {len(password)}"
        )
    with _ONE_AT_A_TIME:
        return _HASHER.hash(password)


def _verified(hashed: str, password: str) -> bool:
    try:
        with _ONE_AT_A_TIME:
            return _HASHER.verify(hashed, password)
    except (VerificationError, InvalidHashError):
        return False


def _stamp() -> str:
    return secrets.token_hex(16)


@cache
def _none() -> str:
    """What no password belongs to."""
    return _HASHER.hash(secrets.token_hex(16))
