"""The tables: photos, their revisions and versions, takes, jobs, and the ratios that people keep."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any, Literal

from sqlalchemy import (
    JSON,
    BigInteger,
    Computed,
    Double,
    ForeignKey,
    SmallInteger,
    String,
    Text,
    UniqueConstraint,
)
from sqlalchemy.dialects.mysql import DATETIME
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

Moment = DATETIME(fsp=3)
WorkState = Literal["waiting", "running", "done", "failed", "cancelled"]
EXACT = "utf8mb4_nopad_bin"
"""A collation in which a name equals only itself: capitals, accents and spaces count."""


def now() -> datetime:
    """The present moment in UTC, as the tables keep it (naive, to the millisecond)."""
    return datetime.now(UTC).replace(tzinfo=None)


class Base(DeclarativeBase):
    """The base of all tables."""


class Photo(Base):
    """One imported photo. ``width`` and ``height`` are after the recorded orientation, without quarter turns.

    ``changes`` counts every change to the row: whoever writes names the count that was read, and SQLAlchemy
    lets no other through. From ``state`` on the columns tell of the current revision and are written with it:
    its state in words (null: not told yet), the ratio of its frame, the photo's size after quarter turns, the
    names of versions, how sure a proposal is; ``readable_id``: where the current state cannot be read, the
    newest revision that can, 0 for none.
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
    changes: Mapped[int] = mapped_column()
    state: Mapped[str | None] = mapped_column(String(40))
    ratio: Mapped[str] = mapped_column(String(40), default="")
    shown_width: Mapped[int] = mapped_column(default=0)
    shown_height: Mapped[int] = mapped_column(default=0)
    version_names: Mapped[list[str]] = mapped_column(JSON, default=list)
    confidence: Mapped[float | None] = mapped_column(Double)
    readable_id: Mapped[int | None] = mapped_column()
    revision_id: Mapped[int | None] = mapped_column(
        ForeignKey("revisions.id", use_alter=True, name="fk_photos_revision")
    )

    __mapper_args__ = {  # noqa: RUF012
        "version_id_col": changes,
        "version_id_generator": lambda version: 0 if version is None else version + 1,
    }


class Revision(Base):
    """One completed action with the whole recipe after it. Rows are only ever added.

    ``number`` counts those of a photo, its import is 1. ``redo_id`` is the child that a redo from here goes
    to: the one that was left last.
    """

    __tablename__ = "revisions"

    id: Mapped[int] = mapped_column(primary_key=True)
    photo_id: Mapped[int] = mapped_column(ForeignKey("photos.id"), index=True)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("revisions.id"))
    redo_id: Mapped[int | None] = mapped_column(ForeignKey("revisions.id"))
    number: Mapped[int] = mapped_column(default=0)
    action: Mapped[str] = mapped_column(String(200))
    state: Mapped[str] = mapped_column(String(40))
    recipe: Mapped[dict[str, Any]] = mapped_column(JSON)
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)


class Version(Base):
    """A named state of a photo that is kept beside others. Removed ones stay, so that it can be undone.

    ``live`` is 1, or null once it is removed: among those of a photo that are there each name is used once.
    """

    __tablename__ = "versions"
    __table_args__ = (UniqueConstraint("photo_id", "name", "live", name="uq_versions_name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    photo_id: Mapped[int] = mapped_column(ForeignKey("photos.id"), index=True)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id"))
    name: Mapped[str] = mapped_column(String(80, collation=EXACT))
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
    removed_at: Mapped[datetime | None] = mapped_column(Moment)
    live: Mapped[int | None] = mapped_column(
        SmallInteger, Computed("if(`removed_at` is null,1,NULL)", persisted=True)
    )


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
    state: Mapped[WorkState] = mapped_column(String(12), default="waiting", index=True)
    progress: Mapped[float] = mapped_column(Double, default=0.0)
    words: Mapped[str] = mapped_column(String(300), default="Waiting")
    parts: Mapped[list[dict[str, Any]]] = mapped_column(JSON, default=list)
    rough: Mapped[int] = mapped_column(default=0)
    attempts: Mapped[int] = mapped_column(default=0)
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)


class Job(Base):
    """Long work that was asked for: an import or an export. The row is the truth about it.

    ``spec`` is all that is needed to begin it anew; ``sha256`` the original that an import is about to keep;
    ``code`` the kind of failure. ``result`` is what came of it, ``notices`` are sentences on what was left
    out.
    """

    __tablename__ = "jobs"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    kind: Mapped[str] = mapped_column(String(12))
    label: Mapped[str] = mapped_column(String(255))
    spec: Mapped[dict[str, Any]] = mapped_column(JSON)
    state: Mapped[WorkState] = mapped_column(String(12), default="waiting", index=True)
    progress: Mapped[float] = mapped_column(Double, default=0.0)
    words: Mapped[str] = mapped_column(String(300), default="Waiting")
    attempts: Mapped[int] = mapped_column(default=0)
    sha256: Mapped[str | None] = mapped_column(String(64))
    code: Mapped[str | None] = mapped_column(String(40))
    error: Mapped[str | None] = mapped_column(Text)
    notices: Mapped[list[str]] = mapped_column(JSON, default=list)
    result: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    asked_at: Mapped[datetime] = mapped_column(Moment, default=now)
    ended_at: Mapped[datetime | None] = mapped_column(Moment)


class OwnRatio(Base):
    """A ratio that is kept under a name, for all photos."""

    __tablename__ = "own_ratios"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(40, collation=EXACT), unique=True)
    ratio: Mapped[str] = mapped_column(String(40))
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
