"""What the contact sheet sorts and filters by; groups; jobs with hash, lane and lease; batches of them."""

from datetime import datetime
from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0008"
down_revision = "0007"

EXACT = "utf8mb4_nopad_bin"
MOMENT = mysql.DATETIME(fsp=3)
NEVER = "9999-12-31"


def photo_columns() -> list[sa.Column[Any]]:
    return [
        sa.Column("taken_at", MOMENT, nullable=False, server_default=NEVER),
        sa.Column("camera", sa.String(120), nullable=False, server_default=""),
        sa.Column("lens", sa.String(120), nullable=False, server_default=""),
        sa.Column("import_id", sa.Integer),
        sa.Column("looked", sa.String(64), nullable=False, server_default=""),
        sa.Column("found_roll", sa.Double),
        sa.Column("sure_tilt", sa.Double, nullable=False, server_default="-1"),
        sa.Column("sure_walls", sa.Double, nullable=False, server_default="-1"),
        sa.Column("sure_square", sa.Double, nullable=False, server_default="-1"),
        sa.Column("aside", sa.Boolean, nullable=False, server_default="0"),
        sa.Column("exported_id", sa.Integer),
    ]


INDEXES = {
    "sheet_came": ("shown", "id"),
    "sheet_taken": ("shown", "taken_at", "id"),
    "sheet_title": ("shown", "title", "id"),
    "sheet_camera": ("shown", "camera", "id"),
    "sheet_confidence": ("shown", "confidence", "id"),
    "sheet_state": ("shown", "state", "aside", "confidence", "id"),
    "sheet_lens": ("shown", "lens", "id"),
    "sheet_ratio": ("shown", "ratio", "id"),
    "sheet_import": ("shown", "import_id", "id"),
}
LONGEST = 120


def upgrade() -> None:
    for column in photo_columns():
        op.add_column("photos", column)
    shown = sa.Computed("if(`removed_at` is null and `revision_id` is not null,1,0)", persisted=True)
    op.add_column("photos", sa.Column("shown", sa.SmallInteger, shown))
    # No photo was looked at yet as its row tells.
    op.execute("UPDATE photos SET confidence = -1")
    op.alter_column("photos", "confidence", type_=sa.Double, nullable=False, server_default="-1")
    maker, model, lens, taken = (
        f"NULLIF(JSON_VALUE(facts, '$.{name}'), 'null')" for name in ("make", "model", "lens", "taken_at")
    )
    op.execute(
        f"UPDATE photos SET camera = LEFT(TRIM(CONCAT_WS(' ', {maker}, {model})), {LONGEST}),"
        f" lens = LEFT(COALESCE({lens}, ''), {LONGEST})"
    )
    # Not by the database: what its clock cannot be, it takes for the year 0.
    rows = op.get_bind().execute(sa.text(f"SELECT id, {taken} FROM photos WHERE {taken} IS NOT NULL")).all()
    told = [{"i": number, "at": at} for number, words in rows if (at := _when(words)) is not None]
    if told:
        op.get_bind().execute(sa.text("UPDATE photos SET taken_at = :at WHERE id = :i"), told)
    for name, columns in INDEXES.items():
        op.create_index(name, "photos", list(columns))
    op.create_table(
        "photo_groups",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(80, collation=EXACT), nullable=False, unique=True),
        sa.Column("created_at", MOMENT, nullable=False),
    )
    op.create_table(
        "group_photos",
        sa.Column("group_id", sa.Integer, sa.ForeignKey("photo_groups.id"), primary_key=True),
        sa.Column("photo_id", sa.Integer, sa.ForeignKey("photos.id"), primary_key=True, index=True),
    )
    op.create_table(
        "batches",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("kind", sa.String(12), nullable=False),
        sa.Column("label", sa.String(200), nullable=False),
        sa.Column("settings", sa.JSON, nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.Column("cancelled_at", MOMENT),
        sa.Column("undone_at", MOMENT),
    )
    op.add_column("jobs", sa.Column("made_of", sa.String(64), unique=True))
    op.add_column("jobs", sa.Column("lane", sa.String(12), nullable=False, server_default="export"))
    op.execute("UPDATE jobs SET lane = 'import' WHERE kind = 'import'")
    op.add_column("jobs", sa.Column("owner", sa.String(80)))
    op.add_column("jobs", sa.Column("lease_until", MOMENT))
    op.create_index("ready", "jobs", ["state", "lane", "lease_until"])
    op.create_table(
        "batch_photos",
        sa.Column("batch_id", sa.Integer, sa.ForeignKey("batches.id"), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("photo_id", sa.Integer, sa.ForeignKey("photos.id"), nullable=False, index=True),
        sa.Column("job_id", sa.String(32), sa.ForeignKey("jobs.id"), index=True),
        sa.Column("name", sa.String(255), nullable=False),
        sa.Column("before_id", sa.Integer),
        sa.Column("after_id", sa.Integer),
        sa.Column("note", sa.Text),
    )


def _when(recorded: str) -> datetime | None:
    """A moment as cameras record it; None for a clock that was never set."""
    try:
        return datetime.strptime(recorded[:19].replace("-", ":"), "%Y:%m:%d %H:%M:%S")
    except ValueError:
        return None


def downgrade() -> None:
    op.drop_table("batch_photos")
    op.drop_index("ready", "jobs")
    for column in ("lease_until", "owner", "lane", "made_of"):
        op.drop_column("jobs", column)
    for table in ("batches", "group_photos", "photo_groups"):
        op.drop_table(table)
    for name in INDEXES:
        op.drop_index(name, "photos")
    op.drop_column("photos", "shown")
    op.alter_column("photos", "confidence", type_=sa.Double, nullable=True, server_default=None)
    op.execute("UPDATE photos SET confidence = NULL")
    for told in photo_columns():
        op.drop_column("photos", told.name)
