"""Versions: named states of a photo, kept beside others."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator, Sequence

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from sequor.operations.photos import (
    PhotoNow,
    UnreadableStateError,
    changing,
    get_photo,
    recipe_of,
    tell_versions,
    touched,
)
from sequor.recipe.model import Recipe
from sequor.store.database import Store
from sequor.store.models import Revision, Version, now


class VersionUnknownError(LookupError):
    """The photo has no such version."""


class NameTakenError(ValueError):
    """The name is another version's already."""


def list_versions(store: Store, photo_id: int) -> list[tuple[Version, Recipe]]:
    """The versions of a photo with their recipes, in the order they were made. Raises PhotoUnknownError.

    One whose state cannot be read is left out; it is still in the log.
    """
    get_photo(store, photo_id)
    with store.transaction() as session:
        query = select(Version, Revision).join(Revision, Version.revision_id == Revision.id)
        query = query.where(Version.photo_id == photo_id, Version.removed_at.is_(None)).order_by(Version.id)
        found = [(version, revision) for version, revision in session.execute(query)]
    readable = []
    for version, revision in found:
        with contextlib.suppress(UnreadableStateError):
            readable.append((version, recipe_of(revision)))
    return readable


def chosen(store: Store, photo_id: int, wanted: Sequence[int]) -> list[tuple[str, Recipe]]:
    """Names and recipes of some versions. Raises VersionUnknownError, PhotoUnknownError."""
    known = {version.id: (version.name, recipe) for version, recipe in list_versions(store, photo_id)}
    missing = [number for number in wanted if number not in known]
    if missing:
        raise VersionUnknownError("A version you chose no longer exists. Nothing was exported; choose again")
    return [known[number] for number in dict.fromkeys(wanted)]


def keep_version(store: Store, photo_id: int, expected: int, name: str) -> PhotoNow:
    """Keep the present state under a name.

    Raises NameTakenError, PhotoUnknownError, ChangedMeanwhileError.
    """
    with _names_differ(name), store.transaction() as session:
        now_ = changing(session, photo_id, expected)
        session.add(Version(photo_id=photo_id, revision_id=now_.revision.id, name=name))
        tell_versions(session, now_.photo)
        return touched(now_)


def bring_up(store: Store, photo_id: int, expected: int, version_id: int) -> PhotoNow:
    """Let a version hold the present state; the log still has what it held. Raises VersionUnknownError."""
    with store.transaction() as session:
        now_ = changing(session, photo_id, expected)
        _version(session, photo_id, version_id).revision_id = now_.revision.id
        return touched(now_)


def remove_version(store: Store, photo_id: int, expected: int, version_id: int) -> PhotoNow:
    """Take a version away; its state stays in the log. Raises VersionUnknownError."""
    with store.transaction() as session:
        now_ = changing(session, photo_id, expected)
        _version(session, photo_id, version_id).removed_at = now()
        tell_versions(session, now_.photo)
        return touched(now_)


def restore_version(store: Store, photo_id: int, expected: int, version_id: int) -> PhotoNow:
    """Undo a removal. Raises NameTakenError when its name has been given away meanwhile."""
    with store.transaction() as session:
        name = _version(session, photo_id, version_id).name
    with _names_differ(name), store.transaction() as session:
        now_ = changing(session, photo_id, expected)
        _version(session, photo_id, version_id).removed_at = None
        tell_versions(session, now_.photo)
        return touched(now_)


@contextlib.contextmanager
def _names_differ(name: str) -> Iterator[None]:
    """The database says whether a name is taken, whoever gives it at the same moment."""
    try:
        yield
    except IntegrityError:
        raise NameTakenError(f"There is already a version named “{name}”. Choose another name") from None


def _version(session: Session, photo_id: int, version_id: int) -> Version:
    version = session.get(Version, version_id)
    if version is None or version.photo_id != photo_id:
        raise VersionUnknownError("This version no longer exists")
    return version
