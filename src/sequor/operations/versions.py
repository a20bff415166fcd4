"""Versions: named states of a photo, kept beside others."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy.orm import Session

from sequor.recipe.model import Recipe
from sequor.store.database import Store
from sequor.store.models import Photo, Revision, Version, now

from .revising import find_photo


class VersionUnknownError(LookupError):
    """The photo has no such version."""


class NameTakenError(ValueError):
    """The name is another version's already."""


def list_versions(store: Store, photo_id: int) -> list[tuple[Version, Recipe]]:
    """The versions of a photo with their recipes, in the order they were made. Raises PhotoUnknownError."""
    with store.transaction() as session:
        photo = find_photo(session, photo_id, lock=True)
        return [(one, _recipe(session, one)) for one in photo.versions if one.removed_at is None]


def chosen(store: Store, photo_id: int, wanted: Sequence[int]) -> list[tuple[str, Recipe]]:
    """Names and recipes of some versions. Raises VersionUnknownError, PhotoUnknownError."""
    known = {version.id: (version.name, recipe) for version, recipe in list_versions(store, photo_id)}
    missing = [number for number in wanted if number not in known]
    if missing:
        raise VersionUnknownError(f"the photo has no version {missing[0]} any more; choose again")
    return [known[number] for number in dict.fromkeys(wanted)]


def keep_version(store: Store, photo_id: int, name: str) -> Version:
    """Keep the present state under a name. Raises NameTakenError, PhotoUnknownError."""
    with store.transaction() as session:
        photo = find_photo(session, photo_id, lock=True)
        _refuse_taken(photo, name)
        version = Version(photo_id=photo.id, revision_id=photo.revision_id, name=name)
        session.add(version)
        session.flush()
        return version


def bring_up(store: Store, photo_id: int, version_id: int) -> Version:
    """Let a version hold the present state; the log still has what it held. Raises VersionUnknownError."""
    with store.transaction() as session:
        photo = find_photo(session, photo_id, lock=True)
        version = _version(session, photo, version_id)
        assert photo.revision_id is not None
        version.revision_id = photo.revision_id
        return version


def remove_version(store: Store, photo_id: int, version_id: int) -> None:
    """Take a version away; its state stays in the log. Raises VersionUnknownError."""
    with store.transaction() as session:
        _version(session, find_photo(session, photo_id, lock=True), version_id).removed_at = now()


def restore_version(store: Store, photo_id: int, version_id: int) -> Version:
    """Undo a removal. Raises NameTakenError when its name has been given away meanwhile."""
    with store.transaction() as session:
        photo = find_photo(session, photo_id, lock=True)
        version = _version(session, photo, version_id)
        if version.removed_at is not None:
            _refuse_taken(photo, version.name)
        version.removed_at = None
        return version


def _version(session: Session, photo: Photo, version_id: int) -> Version:
    version = session.get(Version, version_id)
    if version is None or version.photo_id != photo.id:
        raise VersionUnknownError(f"the photo has no version {version_id}")
    return version


def _refuse_taken(photo: Photo, name: str) -> None:
    if any(one.name == name and one.removed_at is None for one in photo.versions):
        raise NameTakenError(f"there is a version called {name} already; choose another name")


def _recipe(session: Session, version: Version) -> Recipe:
    revision = session.get_one(Revision, version.revision_id)
    return Recipe.model_validate(revision.recipe)
