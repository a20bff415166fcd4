"""The tables: accounts, photos, their revisions and versions, groups, takes, jobs, batches, and the ratios
that people keep."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any, Literal

from sqlalchemy import (
    JSON,
    BigInteger,
    Computed,
    Double,
    ForeignKey,
    Index,
    SmallInteger,
    String,
    Text,
    UniqueConstraint,
)
from sqlalchemy.dialects.mysql import DATETIME
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from .owners import Owned

Moment = DATETIME(fsp=3)
WorkState = Literal["waiting", "running", "done", "failed", "cancelled"]
NEVER = datetime(9999, 12, 31)
"""When a photo was taken whose file does not tell: behind all others."""
NOT_LOOKED = -1.0
"""How sure a photo is that nobody has looked at yet, and a correction that is not offered."""
EXACT = "utf8mb4_nopad_bin"
"""A collation in which a name equals only itself: capitals, accents and spaces count."""


def now() -> datetime:
    """The present moment in UTC, as the tables keep it (naive, to the millisecond)."""
    return datetime.now(UTC).replace(tzinfo=None)


class Base(DeclarativeBase):
    """The base of all tables."""


class Account(Base):
    """Somebody who may sign in. ``password``: its Argon2 hash; ``stamp``: changes when all sessions are to
    end; ``most_bytes`` of photos may be kept, ``most_jobs`` be unfinished at a time."""

    __tablename__ = "accounts"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80, collation=EXACT), unique=True)
    password: Mapped[str] = mapped_column(String(200))
    stamp: Mapped[str] = mapped_column(String(32))
    most_bytes: Mapped[int] = mapped_column(BigInteger)
    most_jobs: Mapped[int] = mapped_column()
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)


class Photo(Owned, Base):
    """One imported photo. ``width`` and ``height`` are after the recorded orientation, without quarter turns.

    ``changes`` counts every change to the row: whoever writes names the count that was read, and SQLAlchemy
    lets no other through. From ``state`` on the columns tell of the current revision and are written with it:
    its state in words (null: not told yet), the ratio of its frame, the photo's size after quarter turns, the
    names of versions; ``readable_id``: where the current state cannot be read, the newest revision that can,
    0 for none. ``found_roll`` is the tilt in degrees that was found, ``sure_…`` how sure each extent is that
    is offered, ``confidence`` how sure what is suggested is, ``looked`` what it was looked at with;
    ``aside``: somebody wants nothing of it. ``exported_id``: the revision that was written last. ``shown``: 1
    while it is on the contact sheet.
    """

    __tablename__ = "photos"
    __table_args__ = (
        UniqueConstraint("account_id", "sha256", name="own_photos"),
        Index("photos_sha256", "sha256"),
        Index("sheet_came", "account_id", "shown", "id"),
        Index("sheet_taken", "account_id", "shown", "taken_at", "id"),
        Index("sheet_title", "account_id", "shown", "title", "id"),
        Index("sheet_camera", "account_id", "shown", "camera", "id"),
        Index("sheet_confidence", "account_id", "shown", "confidence", "id"),
        Index("sheet_state", "account_id", "shown", "state", "aside", "confidence", "id"),
        Index("sheet_lens", "account_id", "shown", "lens", "id"),
        Index("sheet_ratio", "account_id", "shown", "ratio", "id"),
        Index("sheet_import", "account_id", "shown", "import_id", "id"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    sha256: Mapped[str] = mapped_column(String(64))
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
    readable_id: Mapped[int | None] = mapped_column()
    taken_at: Mapped[datetime] = mapped_column(Moment, default=NEVER)
    camera: Mapped[str] = mapped_column(String(120), default="")
    lens: Mapped[str] = mapped_column(String(120), default="")
    import_id: Mapped[int | None] = mapped_column()
    looked: Mapped[str] = mapped_column(String(64), default="")
    found_roll: Mapped[float | None] = mapped_column(Double)
    confidence: Mapped[float] = mapped_column(Double, default=NOT_LOOKED)
    sure_tilt: Mapped[float] = mapped_column(Double, default=NOT_LOOKED)
    sure_walls: Mapped[float] = mapped_column(Double, default=NOT_LOOKED)
    sure_square: Mapped[float] = mapped_column(Double, default=NOT_LOOKED)
    aside: Mapped[bool] = mapped_column(default=False)
    exported_id: Mapped[int | None] = mapped_column()
    shown: Mapped[int | None] = mapped_column(
        SmallInteger,
        Computed("if(`removed_at` is null and `revision_id` is not null,1,0)", persisted=True),
    )
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


class Job(Owned, Base):
    """Long work that was asked for. The row is the truth about it.

    ``spec`` is all that is needed to begin it anew; ``made_of`` the hash of all that its result depends on:
    what is the same is done once. ``lane``: who does it. ``owner``: the process that does it, which renews
    ``lease_until``. ``sha256`` the original that an import is about to keep; ``code`` the kind of failure.
    ``result`` is what came of it, ``notices`` are sentences on what was left out.
    """

    __tablename__ = "jobs"
    __table_args__ = (
        UniqueConstraint("account_id", "made_of", name="own_jobs"),
        Index("ready", "state", "lane", "lease_until"),
    )

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    kind: Mapped[str] = mapped_column(String(12))
    lane: Mapped[str] = mapped_column(String(12))
    made_of: Mapped[str | None] = mapped_column(String(64))
    label: Mapped[str] = mapped_column(String(255))
    spec: Mapped[dict[str, Any]] = mapped_column(JSON)
    state: Mapped[WorkState] = mapped_column(String(12), default="waiting", index=True)
    progress: Mapped[float] = mapped_column(Double, default=0.0)
    words: Mapped[str] = mapped_column(String(300), default="Waiting")
    attempts: Mapped[int] = mapped_column(default=0)
    owner: Mapped[str | None] = mapped_column(String(80))
    lease_until: Mapped[datetime | None] = mapped_column(Moment)
    sha256: Mapped[str | None] = mapped_column(String(64))
    code: Mapped[str | None] = mapped_column(String(40))
    error: Mapped[str | None] = mapped_column(Text)
    notices: Mapped[list[str]] = mapped_column(JSON, default=list)
    result: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    asked_at: Mapped[datetime] = mapped_column(Moment, default=now)
    begun_at: Mapped[datetime | None] = mapped_column(Moment)
    ended_at: Mapped[datetime | None] = mapped_column(Moment)


class Batch(Owned, Base):
    """One action on many photos: imports that came together, proposals taken, exports written. ``settings``:
    what was chosen for it."""

    __tablename__ = "batches"

    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(String(12))
    label: Mapped[str] = mapped_column(String(200))
    settings: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
    cancelled_at: Mapped[datetime | None] = mapped_column(Moment)
    undone_at: Mapped[datetime | None] = mapped_column(Moment)


class BatchPhoto(Base):
    """A photo in a batch, or one of its versions: the job that does it, the name of the file that is written;
    where the photo was changed, the revisions before and after, and in ``note`` what was not."""

    __tablename__ = "batch_photos"

    batch_id: Mapped[int] = mapped_column(ForeignKey("batches.id"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    photo_id: Mapped[int] = mapped_column(ForeignKey("photos.id"), index=True)
    job_id: Mapped[str | None] = mapped_column(ForeignKey("jobs.id"), index=True)
    name: Mapped[str] = mapped_column(String(255), default="")
    before_id: Mapped[int | None] = mapped_column()
    after_id: Mapped[int | None] = mapped_column()
    note: Mapped[str | None] = mapped_column(Text)


class PhotoGroup(Owned, Base):
    """Photos under a name."""

    __tablename__ = "photo_groups"
    __table_args__ = (UniqueConstraint("account_id", "name", name="own_groups"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80, collation=EXACT))
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)


class GroupPhoto(Base):
    """A photo in a group."""

    __tablename__ = "group_photos"

    group_id: Mapped[int] = mapped_column(ForeignKey("photo_groups.id"), primary_key=True)
    photo_id: Mapped[int] = mapped_column(ForeignKey("photos.id"), primary_key=True, index=True)


class OwnRatio(Owned, Base):
    """A ratio that is kept under a name, for all photos."""

    __tablename__ = "own_ratios"
    __table_args__ = (UniqueConstraint("account_id", "name", name="own_ratio_names"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(40, collation=EXACT))
    ratio: Mapped[str] = mapped_column(String(40))
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
