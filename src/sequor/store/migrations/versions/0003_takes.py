"""Takes: attempts at filling empty corners."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.create_table(
        "takes",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("photo_id", sa.Integer, sa.ForeignKey("photos.id"), nullable=False),
        sa.Column("made_for", sa.String(64), nullable=False),
        sa.Column("seed", sa.Integer, nullable=False),
        sa.Column("recipe", sa.JSON, nullable=False),
        sa.Column("state", sa.String(12), nullable=False, index=True),
        sa.Column("progress", sa.Double, nullable=False),
        sa.Column("words", sa.String(300), nullable=False),
        sa.Column("parts", sa.JSON, nullable=False),
        sa.Column("rough", sa.Integer, nullable=False),
        sa.Column("attempts", sa.Integer, nullable=False),
        sa.Column("created_at", mysql.DATETIME(fsp=3), nullable=False),
        sa.UniqueConstraint("photo_id", "made_for", "seed"),
    )


def downgrade() -> None:
    op.drop_table("takes")
