"""Accounts, and whose photos, jobs, batches, groups and ratios are; names are unique within an account."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0010"
down_revision = "0009"

EXACT = "utf8mb4_nopad_bin"
OWNED = ("photos", "jobs", "batches", "photo_groups", "own_ratios")
UNIQUE = {
    "photos": ("sha256", "sha256", "own_photos"),
    "jobs": ("made_of", "made_of", "own_jobs"),
    "photo_groups": ("name", "name", "own_groups"),
    "own_ratios": ("name", "name", "own_ratio_names"),
}
"""Of each table the constraint of before, the column it is about, and the constraint from now on."""
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


def upgrade() -> None:
    op.create_table(
        "accounts",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(80, collation=EXACT), nullable=False, unique=True),
        sa.Column("password", sa.String(200), nullable=False),
        sa.Column("stamp", sa.String(32), nullable=False),
        sa.Column("most_bytes", sa.BigInteger, nullable=False),
        sa.Column("most_jobs", sa.Integer, nullable=False),
        sa.Column("created_at", mysql.DATETIME(fsp=3), nullable=False),
    )
    for table in OWNED:
        op.add_column(table, sa.Column("account_id", sa.Integer, nullable=False, server_default="0"))
    for table, (before, column, name) in UNIQUE.items():
        op.create_unique_constraint(name, table, ["account_id", column])
        op.drop_constraint(before, table, type_="unique")
    op.create_index("photos_sha256", "photos", ["sha256"])
    for name, columns in INDEXES.items():
        op.drop_index(name, "photos")
        op.create_index(name, "photos", ["account_id", *columns])


def downgrade() -> None:
    for name, columns in INDEXES.items():
        op.drop_index(name, "photos")
        op.create_index(name, "photos", list(columns))
    op.drop_index("photos_sha256", "photos")
    for table, (before, column, name) in UNIQUE.items():
        op.create_unique_constraint(before, table, [column])
        op.drop_constraint(name, table, type_="unique")
    for table in OWNED:
        op.drop_column(table, "account_id")
    op.drop_table("accounts")
