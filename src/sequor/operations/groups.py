"""Groups: photos under a name."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import delete, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.exc import IntegrityError

from sequor.operations.versions import NameTakenError
from sequor.store.chunks import chunks
from sequor.store.database import Store
from sequor.store.models import GroupPhoto, Photo, PhotoGroup


class GroupUnknownError(LookupError):
    """There is no such group."""


def make_group(store: Store, name: str, photos: Sequence[int] = ()) -> PhotoGroup:
    """A new group of photos. Raises NameTakenError."""
    try:
        with store.transaction() as session:
            group = PhotoGroup(name=name)
            session.add(group)
            session.flush()
    except IntegrityError:
        raise NameTakenError(f"There is already a group named “{name}”. Choose another name") from None
    fill_group(store, group.id, photos)
    return group


def fill_group(store: Store, group_id: int, photos: Sequence[int]) -> None:
    """Add photos to a group; those that are in it stay. Raises GroupUnknownError."""
    with store.transaction() as session:
        _known(session.get(PhotoGroup, group_id))
        for some in chunks(photos):
            there = list(session.scalars(select(Photo.id).where(Photo.id.in_(some))))
            if there:
                rows = [{"group_id": group_id, "photo_id": photo} for photo in there]
                session.execute(insert(GroupPhoto).prefix_with("IGNORE"), rows)


def take_out(store: Store, group_id: int, photos: Sequence[int]) -> None:
    """Take photos out of a group; they stay on the contact sheet. Raises GroupUnknownError."""
    with store.transaction() as session:
        _known(session.get(PhotoGroup, group_id))
        for some in chunks(photos):
            out = GroupPhoto.photo_id.in_(some)
            session.execute(delete(GroupPhoto).where(GroupPhoto.group_id == group_id, out))


def remove_group(store: Store, group_id: int) -> None:
    """Remove a group; its photos stay. Harmless when it is gone."""
    with store.transaction() as session:
        if session.get(PhotoGroup, group_id) is not None:
            session.execute(delete(GroupPhoto).where(GroupPhoto.group_id == group_id))
            session.execute(delete(PhotoGroup).where(PhotoGroup.id == group_id))


def _known(group: PhotoGroup | None) -> None:
    if group is None:
        raise GroupUnknownError("This group no longer exists")
