"""The tables: photos, their revisions and versions, takes, and the ratios that people keep."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any, Literal

from sqlalchemy import JSON, BigInteger, Double, ForeignKey, String, Text, UniqueConstraint
from sqlalchemy.dialects.mysql import DATETIME
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

Moment = DATETIME(fsp=3)
TakeState = Literal["waiting", "running", "done", "failed", "cancelled"]


def now() -> datetime:
    """The present moment in UTC, as the tables keep it (naive, to the millisecond)."""
    return datetime.now(UTC).replace(tzinfo=None)


class Base(DeclarativeBase):
    """The base of all tables."""


class Photo(Base):
    """One imported photo. ``width`` and ``height`` are after the recorded orientation, without quarter turns.

    ``changes`` counts every change to the row and is what optimistic locking compares.
    """

    __tablename__ = "photos"

    id: Mapped[int] = mapped_column(primary_key=True)
    sha256: Mapped[str] = mapped_column(String(64), unique=True)
    title: Mapped[str] = mapped_column(String(200))
    file_name: Mapped[str] = mapped_column(String(255))
    format: Mapped[str] = mapped_column(String(8))
    bytes: Mapped[int] = mapped_column(BigInteger)
    width: Mapped[int]
    height: Mapped[int]
    facts: Mapped[dict[str, Any]] = mapped_column(JSON)
    profile: Mapped[str | None] = mapped_column(Text)
    imported_at: Mapped[datetime] = mapped_column(Moment, default=now)
    removed_at: Mapped[datetime | None] = mapped_column(Moment, index=True)
    changes: Mapped[int] = mapped_column(default=0)
    revision_id: Mapped[int | None] = mapped_column(
        ForeignKey("revisions.id", use_alter=True, name="fk_photos_revision")
    )
    revision: Mapped[Revision | None] = relationship(foreign_keys=[revision_id], post_update=True)
    versions: Mapped[list[Version]] = relationship(lazy="selectin", order_by="Version.id", viewonly=True)


class Revision(Base):
    """One completed action with the whole recipe after it. Rows are only ever added.

    ``redo_id`` is the child that a redo from here goes to: the one that was left last.
    """

    __tablename__ = "revisions"

    id: Mapped[int] = mapped_column(primary_key=True)
    photo_id: Mapped[int] = mapped_column(ForeignKey("photos.id"), index=True)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("revisions.id"))
    redo_id: Mapped[int | None] = mapped_column(ForeignKey("revisions.id"))
    action: Mapped[str] = mapped_column(String(200))
    state: Mapped[str] = mapped_column(String(40))
    recipe: Mapped[dict[str, Any]] = mapped_column(JSON)
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)


class Version(Base):
    """A named state of a photo that is kept beside others. Removed ones stay, so that it can be undone."""

    __tablename__ = "versions"

    id: Mapped[int] = mapped_column(primary_key=True)
    photo_id: Mapped[int] = mapped_column(ForeignKey("photos.id"), index=True)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id"))
    name: Mapped[str] = mapped_column(String(80))
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
    removed_at: Mapped[datetime | None] = mapped_column(Moment)


class Take(Base):
    """One attempt at filling the empty part of a frame, asked for, being made or made.

    ``made_for`` is the hash of all it depends on but the seed, ``recipe`` what it is made from. ``parts``:
    for each part of the empty area its name, its box and, once made, the patch's hash. ``rough``: by how much
    the first look at it is reduced, 0 = there is none. ``attempts``: how often it was begun.
    """

    __tablename__ = "takes"
    __table_args__ = (UniqueConstraint("photo_id", "made_for", "seed"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    photo_id: Mapped[int] = mapped_column(ForeignKey("photos.id"))
    made_for: Mapped[str] = mapped_column(String(64))
    seed: Mapped[int]
    recipe: Mapped[dict[str, Any]] = mapped_column(JSON)
    state: Mapped[TakeState] = mapped_column(String(12), default="waiting", index=True)
    progress: Mapped[float] = mapped_column(Double, default=0.0)
    words: Mapped[str] = mapped_column(String(300), default="waiting")
    parts: Mapped[list[dict[str, Any]]] = mapped_column(JSON, default=list)
    rough: Mapped[int] = mapped_column(default=0)
    attempts: Mapped[int] = mapped_column(default=0)
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)


class OwnRatio(Base):
    """A ratio that is kept under a name, for all photos."""

    __tablename__ = "own_ratios"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(40))
    ratio: Mapped[str] = mapped_column(String(40))
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
