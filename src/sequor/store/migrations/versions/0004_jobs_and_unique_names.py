"""Jobs as rows; no two versions of a photo and no two own ratios of one name."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0004"
down_revision = "0003"

EXACT = "utf8mb4_nopad_bin"


def upgrade() -> None:
    op.create_table(
        "jobs",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("kind", sa.String(12), nullable=False),
        sa.Column("label", sa.String(255), nullable=False),
        sa.Column("spec", sa.JSON, nullable=False),
        sa.Column("state", sa.String(12), nullable=False, index=True),
        sa.Column("attempts", sa.Integer, nullable=False),
        sa.Column("sha256", sa.String(64)),
        sa.Column("code", sa.String(40)),
        sa.Column("error", sa.Text),
        sa.Column("notices", sa.JSON, nullable=False),
        sa.Column("result", sa.JSON),
        sa.Column("asked_at", mysql.DATETIME(fsp=3), nullable=False),
        sa.Column("ended_at", mysql.DATETIME(fsp=3)),
    )
    op.alter_column("versions", "name", type_=sa.String(80, collation=EXACT), nullable=False)
    op.alter_column("own_ratios", "name", type_=sa.String(40, collation=EXACT), nullable=False)
    _tell_apart("versions", "photo_id", "removed_at IS NULL", 80)
    _tell_apart("own_ratios", "0", "1", 40)
    op.add_column(
        "versions",
        sa.Column("live", sa.SmallInteger, sa.Computed("if(`removed_at` is null,1,NULL)", persisted=True)),
    )
    op.create_unique_constraint("uq_versions_name", "versions", ["photo_id", "name", "live"])
    op.create_unique_constraint("name", "own_ratios", ["name"])


def _tell_apart(table: str, owner: str, there: str, longest: int) -> None:
    """Number the names that two writers at once have given twice."""
    rows = op.get_bind().execute(sa.text(f"SELECT id, {owner}, name FROM {table} WHERE {there} ORDER BY id"))
    taken: set[tuple[int, str]] = set()
    for row_id, of, name in rows.all():
        free, number = name, 1
        while (of, free) in taken:
            number += 1
            free = f"{name[: longest - 4]} {number}"
        taken.add((of, free))
        if free != name:
            rename = sa.text(f"UPDATE {table} SET name = :name WHERE id = :id")
            op.get_bind().execute(rename, {"name": free, "id": row_id})


def downgrade() -> None:
    op.drop_constraint("name", "own_ratios", type_="unique")
    # The foreign key on photo_id needs an index of its own before this one goes.
    op.create_index("ix_versions_photo", "versions", ["photo_id"])
    op.drop_constraint("uq_versions_name", "versions", type_="unique")
    op.drop_column("versions", "live")
    op.drop_index("ix_versions_photo", "versions")
    op.alter_column(
        "versions", "name", type_=sa.String(80, collation="utf8mb4_unicode_520_ci"), nullable=False
    )
    op.alter_column(
        "own_ratios", "name", type_=sa.String(40, collation="utf8mb4_unicode_520_ci"), nullable=False
    )
    op.drop_table("jobs")
