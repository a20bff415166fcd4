"""Versions of a photo, and ratios under a name."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "versions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("photo_id", sa.Integer, sa.ForeignKey("photos.id"), nullable=False, index=True),
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revisions.id"), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("created_at", mysql.DATETIME(fsp=3), nullable=False),
        sa.Column("removed_at", mysql.DATETIME(fsp=3)),
    )
    op.create_table(
        "own_ratios",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(40), nullable=False),
        sa.Column("ratio", sa.String(40), nullable=False),
        sa.Column("created_at", mysql.DATETIME(fsp=3), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("own_ratios")
    op.drop_table("versions")
